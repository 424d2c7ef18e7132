import { svelte } from "@sveltejs/vite-plugin-svelte";
import { defineConfig } from "vite";

export default defineConfig({
  base: "/static/",
  plugins: [svelte()],
  build: { target: "es2022", chunkSizeWarningLimit: 700 },
});

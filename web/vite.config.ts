import { createHash } from "node:crypto";
import { readdirSync } from "node:fs";
import { svelte } from "@sveltejs/vite-plugin-svelte";
import { defineConfig, type Plugin } from "vite";

const BASE = "/static/";

/** Tells the service worker which files make up this version of the page. */
function filesForTheWorker(): Plugin {
  return {
    name: "files-for-the-worker",
    generateBundle(_, bundle) {
      const worker = bundle["sw.js"];
      if (worker?.type !== "chunk") throw new Error("The service worker was not built.");
      const made = Object.keys(bundle).filter((name) => name !== "sw.js" && !/\.html$|vietnamese|pdf|archivo-paper/.test(name));
      const files = [...made, ...readdirSync("public")].sort().map((name) => BASE + name);
      const page = Object.values(bundle).map((x) => (x.type === "asset" ? String(x.source) : x.code));
      const version = createHash("sha256")
        .update([...files, ...page].join("\n"))
        .digest("hex")
        .slice(0, 12);
      worker.code = worker.code.replaceAll("__FILES__", JSON.stringify(files)).replaceAll("__VERSION__", JSON.stringify(version));
    },
  };
}

export default defineConfig({
  base: BASE,
  plugins: [svelte(), filesForTheWorker()],
  build: {
    target: "es2022",
    chunkSizeWarningLimit: 700,
    rolldownOptions: {
      input: { index: "index.html", sw: "sw/sw.ts" },
      output: { entryFileNames: (chunk) => (chunk.name === "sw" ? "sw.js" : "assets/[name]-[hash].js") },
    },
  },
});

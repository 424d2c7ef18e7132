/** The formulas behind computed numbers, asked for once. */
import { api, type Schemas } from "../api/client";

class Formulas {
  #all = $state.raw<Schemas["FormulaOut"][]>([]);
  #asked = false;

  byId(id: string): Schemas["FormulaOut"] | undefined {
    if (!this.#asked) {
      this.#asked = true;
      void api.GET("/api/formulas").then(({ data }) => (this.#all = data ?? []));
    }
    return this.#all.find((f) => f.id === id);
  }
}

export const formulas = new Formulas();

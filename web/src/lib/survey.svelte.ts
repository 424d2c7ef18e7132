/** The words of a survey (surfaces, exposures, features), fetched once: what is stored is an id, what is read a name. */
import { api, type Schemas } from "../api/client";

class SurveyWords {
  #told = $state.raw<Schemas["SurveyOut"] | null>(null);
  #asked = false;

  #ask(): void {
    if (this.#asked) return;
    this.#asked = true;
    void api.GET("/api/survey").then(({ data }) => {
      this.#told = data ?? null;
      this.#asked = data !== undefined;
    });
  }
  #name(id: string, list: { id: string; name: string }[] | undefined): string {
    this.#ask();
    return list?.find((x) => x.id === id)?.name ?? id.replaceAll("_", " ");
  }
  /** The lists themselves, once they have come. */
  get list(): Schemas["SurveyOut"] | null {
    this.#ask();
    return this.#told;
  }
  family = (id: string): string => {
    this.#ask();
    return this.#told?.families[id] ?? id.replaceAll("_", " ");
  };
  surface = (id: string): string => this.#name(id, this.#told?.substrates);
  exposure = (id: string): string => this.#name(id, this.#told?.exposures);
  feature = (id: string): string => this.#name(id, this.#told?.features);
}

export const surveyWords = new SurveyWords();

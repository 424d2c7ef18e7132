/** How bright this device is where it stands, whatever its person set for all of theirs. */
export const LIGHTS = ["", "light", "dark", "night"] as const;
export type Light = (typeof LIGHTS)[number];
const KEY = "coatlog.light";

class LightHere {
  /** Empty: as set. */
  choice = $state<Light>(LIGHTS.find((x) => x === localStorage.getItem(KEY)) ?? "");

  choose(to: Light): void {
    this.choice = to;
    localStorage.setItem(KEY, to);
  }
}

export const light = new LightHere();

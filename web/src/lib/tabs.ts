/** The order of work: the tabs of a job. */
export const STEPS = [
  ["survey", "Survey"],
  ["stack", "Stack"],
  ["quantity", "Quantity"],
  ["mix", "Mix"],
  ["run", "Run"],
  ["cure", "Cure"],
  ["service", "Service"],
] as const;
export type Step = (typeof STEPS)[number][0];
export const stepOf = (name: string | undefined): Step => STEPS.find(([id]) => id === name)?.[0] ?? "run";

/** The teeth of the shop's comb [µm]. One comb for now; which one is a preference to come. */
export const TEETH = [
  25, 50, 75, 100, 125, 150, 175, 200, 225, 250, 275, 300, 325, 350, 375, 400, 450, 500, 550, 600, 650, 700, 750, 800, 850,
  900, 950, 1000,
];

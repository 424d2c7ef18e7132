/** How a coat looks at a check-up, from 0 on, in the reader's words. */
import { say } from "../words";

export const ratings = (): string[] => [
  say.service.failed,
  say.service.failing,
  say.service.smallFailures,
  say.service.wornButIntact,
  say.service.slightWear,
  say.service.asNew,
];

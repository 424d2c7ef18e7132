/** A part that is to be cut into sections: proposed by the plan, done and saved in the survey. */
export type Cut = { jobId: string; partId: string; into: number };

let waiting = $state.raw<Cut | null>(null);

/** Go to the survey of the job with the cut made there, to be looked at and saved. */
export function openCut(cut: Cut): void {
  waiting = cut;
  location.hash = `#/jobs/${cut.jobId}/survey`;
}

/** The cut that waits for this job's survey, once. */
export function takenCut(jobId: string): Cut | null {
  const cut = waiting?.jobId === jobId ? waiting : null;
  if (cut) waiting = null;
  return cut;
}

const LOOK_AGAIN_MS = 150;

interface Answer {
  work?: unknown;
  reply?: { work?: unknown };
}

/** When to look again: soon while there is work on the answer; not once it was cancelled or failed. */
export function whileWorking(query: { state: { status: string; data: Answer | undefined } }) {
  const { status, data } = query.state;
  return status !== "error" && (data?.work ?? data?.reply?.work) ? LOOK_AGAIN_MS : false;
}

import type { Track } from "../api/types";

/** The number at risk that was sent for a tick; null while another part of the axis is shown. */
export function atRisk(row: Track["counts"][number], at: number): number | null {
  const k = row.time.indexOf(at);
  return k < 0 ? null : (row.number[k] ?? null);
}

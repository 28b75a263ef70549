import { bisectLeft, bisectRight } from "d3-array";
import type { CurveReading } from "../api/types";

/** Index of the last entry ≤ t of an ascending list, −1 if there is none. */
export function lastAtOrBefore(times: readonly number[], t: number): number {
  return bisectRight(times, t) - 1;
}

/** Index of the first entry ≥ t of an ascending list, its length if there is none. */
export function firstAtOrAfter(times: readonly number[], t: number): number {
  return bisectLeft(times, t);
}

export interface At {
  survival: number | null;
  lower: number | null;
  upper: number | null;
  atRisk: number;
  events: number;
}

/** A curve at any time: nothing past its end, the exact number at risk everywhere. */
export function curveAt(curve: CurveReading, t: number): At {
  const atRisk = atRiskAt(curve.at_risk_time, curve.at_risk, t);
  if (t > curve.last || t < 0)
    return { survival: null, lower: null, upper: null, atRisk, events: curve.events };
  const k = lastAtOrBefore(curve.time, t);
  if (k < 0) return { survival: 1, lower: 1, upper: 1, atRisk, events: 0 };
  return {
    survival: curve.survival[k] ?? null,
    lower: curve.lower[k] ?? null,
    upper: curve.upper[k] ?? null,
    atRisk,
    events: curve.events_so_far[k] ?? 0,
  };
}

/** The number at risk: entry < t ≤ exit, so it holds up to and at each of its times. */
export function atRiskAt(times: readonly number[], numbers: readonly number[], t: number): number {
  return numbers[firstAtOrAfter(times, t)] ?? 0;
}

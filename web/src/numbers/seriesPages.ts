import { useSyncExternalStore } from "react";
import type { Series } from "../api/types";
import { type PageOf, type Stretch, sentWhole } from "./atTime";

/** So many drawings' pages are remembered. */
const MAX_DRAWINGS = 3;
/** Pages are requested ahead of need only while all of them together stay below this. */
const MAX_BYTES_AHEAD = 160e6;
const AT_ONCE = 3;
const drawings = new Map<string, SeriesPages>();

/** The pages of a drawing's long series: those that have arrived, and those requested. */
class SeriesPages {
  /** Changes when a page arrives that somebody had looked for. */
  version = 0;
  private readonly arrived = new Map<string, Stretch>();
  private readonly requested = new Map<string, Promise<void>>();
  private readonly looked = new Set<string>();
  private readonly listeners = new Set<() => void>();

  constructor(private readonly address: string) {}

  readonly pageOf: PageOf = (series, page) => {
    if (series.key === null) return sentWhole(series, page);
    const name = `${series.key}/${page}`;
    const found = this.arrived.get(name);
    if (!found) {
      this.looked.add(name);
      void this.load(series, page);
    }
    return found;
  };

  /** Ask for a page, unless it was requested already. */
  load(series: Series, page: number): Promise<void> {
    const name = `${series.key}/${page}`;
    const known = this.requested.get(name);
    if (known) return known;
    const work = this.fetch(name, series.columns.length);
    this.requested.set(name, work);
    return work;
  }

  /** Ask for all pages one after another, so that a dragged line finds them there, until stopped. */
  async loadAhead(all: readonly Series[], stop: AbortSignal): Promise<void> {
    const long = all.filter((series) => series.key !== null);
    const bytes = long.reduce((sum, s) => sum + 8 * s.length * (1 + s.columns.length), 0);
    if (bytes > MAX_BYTES_AHEAD) return;
    const wanted = long.flatMap((series) => series.pages.map((_, page) => ({ series, page })));
    const next = async (): Promise<void> => {
      for (let one = wanted.shift(); one && !stop.aborted; one = wanted.shift())
        await this.load(one.series, one.page);
    };
    await Promise.all(Array.from({ length: AT_ONCE }, next));
  }

  readonly subscribe = (notify: () => void) => {
    this.listeners.add(notify);
    return () => this.listeners.delete(notify);
  };

  private async fetch(name: string, columns: number): Promise<void> {
    const answer = await fetch(`${this.address}/series/${name}`);
    if (!answer.ok) {
      this.requested.delete(name);
      return;
    }
    const values = new Float64Array(await answer.arrayBuffer());
    const length = values.length / (columns + 1);
    const part = (k: number) => values.subarray(k * length, (k + 1) * length);
    this.arrived.set(name, {
      time: part(0),
      columns: Array.from({ length: columns }, (_, k) => part(k + 1)),
    });
    if (!this.looked.delete(name)) return;
    this.version += 1;
    for (const notify of this.listeners) notify();
  }
}

/** The pages of a drawing, the same object for all who ask. */
export function seriesPages(study: string, drawing: string): SeriesPages {
  const address = `/api/studies/${study}/drawings/${drawing}`;
  const known = drawings.get(address);
  if (known) return known;
  const made = new SeriesPages(address);
  drawings.set(address, made);
  for (const oldest of drawings.keys()) {
    if (drawings.size <= MAX_DRAWINGS) break;
    drawings.delete(oldest);
  }
  return made;
}

/** How to read the long series of a drawing; renders again when what was looked for has arrived. */
export function usePageOf(study: string, drawing: string): PageOf {
  const pages = seriesPages(study, drawing);
  useSyncExternalStore(pages.subscribe, () => pages.version);
  return pages.pageOf;
}

import type { ComponentType } from "react";
import type { Mark, MarkOf } from "../../api/types";
import type { Place } from "./drawing";
import { AreaMark, LineMark } from "./lines";
import { HistogramMark, InsetMark, RegionMark, RuleMark } from "./parts";
import { BarsMark, PointsMark } from "./points";
import "./marks.css";

/** How each kind of mark is drawn. */
const DRAWN: { [K in Mark["kind"]]: ComponentType<{ mark: MarkOf<K>; place: Place }> } = {
  line: LineMark,
  area: AreaMark,
  bars: BarsMark,
  points: PointsMark,
  rule: RuleMark,
  region: RegionMark,
  histogram: HistogramMark,
  inset: InsetMark,
};

/** Marks, from behind to the front. */
export function Marks({ marks, place }: { marks: readonly Mark[]; place: Place }) {
  return marks.map((mark, k) => {
    const Drawn = DRAWN[mark.kind] as ComponentType<{ mark: Mark; place: Place }>;
    return <Drawn key={`${k}${mark.label}`} mark={mark} place={place} />;
  });
}

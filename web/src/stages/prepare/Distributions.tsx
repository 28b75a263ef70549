import { scaleLinear } from "d3-scale";
import type { Describe } from "../../api/types";
import { toneColour, toneDash } from "../../theme/tones";
import { outline, stairs } from "./stairs";
import "./Distributions.css";

const WIDTH = 250;
const HEIGHT = 90;
const LEFT = 34;
type One = Describe["distributions"][number];

/** Each number by group: histograms, and under them the share at or below each value. */
export function Distributions({ distributions }: { distributions: readonly One[] }) {
  if (distributions.length === 0) return null;
  return (
    <section aria-label="Distributions">
      <h2>Distributions</h2>
      <div className="distributions">
        {distributions.map((one) => (
          <figure key={one.column}>
            <figcaption>{one.label}</figcaption>
            <Drawn one={one} cumulative={false} />
            <Drawn one={one} cumulative />
            {one.groups.length > 1 ? (
              <p className="legend">
                {one.groups.map((g, k) => (
                  <span key={g.label} className={`tone-${k % 6}`}>
                    <svg width="22" height="8" aria-hidden="true">
                      <path d="M0 4H22" className="dist-line" {...drawnAs(k, one.groups.length)} />
                    </svg>{" "}
                    {g.label}
                  </span>
                ))}
              </p>
            ) : null}
          </figure>
        ))}
      </div>
    </section>
  );
}

function Drawn({ one, cumulative }: { one: One; cumulative: boolean }) {
  const low = one.edges[0] ?? 0;
  const high = one.edges[one.edges.length - 1] ?? 1;
  const most = cumulative ? 1 : Math.max(...one.groups.flatMap((g) => g.bins), 1e-9);
  const x = scaleLinear()
    .domain([low, high])
    .range([LEFT, WIDTH - 8]);
  const y = scaleLinear()
    .domain([0, most])
    .range([HEIGHT - 18, 4]);
  const words = cumulative ? "share at or below" : "share in each of 24 bins";
  return (
    <svg width={WIDTH} height={HEIGHT} role="img" aria-label={`${one.label}: ${words}`}>
      <path d={`M${LEFT} ${y(0)}H${WIDTH - 8}`} className="small-axis" />
      {one.groups.map((group, k) => (
        <path
          key={group.label}
          d={
            cumulative
              ? stairs(group.x.map(x), group.at_or_below.map(y), y(0), x(high))
              : outline(one.edges.map(x), group.bins.map(y), y(0))
          }
          className="dist-line"
          {...drawnAs(k, one.groups.length)}
        />
      ))}
      {[low, high].map((v, k) => (
        <text key={k} x={x(v)} y={HEIGHT - 4} textAnchor={k ? "end" : "start"}>
          {Number(v.toPrecision(4))}
        </text>
      ))}
      <text x={LEFT - 4} y={12} textAnchor="end">
        {cumulative ? "100%" : `${(100 * most).toFixed(0)}%`}
      </text>
    </svg>
  );
}

/** A group keeps its colour and dash in every view; everyone together is drawn in ink. */
function drawnAs(group: number, of: number) {
  const tone = of > 1 ? group : -1;
  return { stroke: toneColour(tone), strokeDasharray: toneDash(tone) };
}

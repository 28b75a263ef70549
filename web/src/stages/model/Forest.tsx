import { scaleLog } from "d3-scale";
import { Fragment, useLayoutEffect, useRef, useState } from "react";
import type { ModelResult, Ratio } from "../../api/types";
import { interval, pValue, ratio } from "../../numbers/format";
import { WorkedNumber } from "../../workings/workings";
import "./model.css";

/** Shares of the width: term, against, picture, ratio, interval, p, on its own. */
const WIDTHS = [17, 11, 25, 8, 13, 7, 19];

/** The hazard ratios as a table with their picture in the middle. */
export function Forest({ result }: { result: ModelResult }) {
  const picture = useRef<HTMLTableCellElement>(null);
  const [width, setWidth] = useState(220);
  useLayoutEffect(() => {
    const cell = picture.current;
    if (!cell) return;
    const watch = new ResizeObserver(() => setWidth(Math.max(cell.clientWidth, 120)));
    watch.observe(cell);
    return () => watch.disconnect();
  }, []);
  const [low, high] = domain(result);
  const x = scaleLog()
    .domain([low, high])
    .range([8, width - 8])
    .clamp(true);
  const ticks = [0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100].filter(
    (v) => v >= low && v <= high,
  );
  const guides = (
    <>
      {ticks.map((v) => (
        <line key={v} x1={x(v)} x2={x(v)} y1={0} y2="100%" className={v === 1 ? "one" : "guide"} />
      ))}
    </>
  );
  return (
    <div className="forest">
      <table>
        <colgroup>
          {WIDTHS.map((share, k) => (
            <col key={k} style={{ width: `${share}%` }} />
          ))}
        </colgroup>
        <thead>
          <tr>
            <th scope="col">term</th>
            <th scope="col">against</th>
            <th scope="col" className="picture" ref={picture}>
              <span className="sr">picture</span>
            </th>
            <th scope="col">hazard ratio</th>
            <th scope="col">interval</th>
            <th scope="col">p</th>
            <th scope="col">on its own</th>
          </tr>
        </thead>
        <tbody>
          {result.terms.map((term) => (
            <Fragment key={term.label}>
              {term.coefficients.some((c) => c.label !== term.name) ? (
                <tr className="term">
                  <th scope="rowgroup" colSpan={2}>
                    {term.name}
                  </th>
                  <td className="picture">
                    <svg width={width} aria-hidden="true">
                      {guides}
                    </svg>
                  </td>
                  <td colSpan={4} />
                </tr>
              ) : null}
              {term.coefficients.map((c) => (
                <tr key={c.column}>
                  <th scope="row" className={c.label === term.name ? "term" : "level"}>
                    {c.label}
                  </th>
                  <td className="against">{c.against}</td>
                  <td className="picture">
                    <svg width={width} aria-hidden="true">
                      {guides}
                      <Interval reading={c.adjusted} x={x} low={low} high={high} />
                      {c.alone.ratio === null ? null : (
                        <circle cx={x(c.alone.ratio)} cy={27} r={3.5} className="alone" />
                      )}
                    </svg>
                  </td>
                  <Figures reading={c.adjusted} column={c.column} />
                  <td className="quiet">{shortly(c.alone)}</td>
                </tr>
              ))}
            </Fragment>
          ))}
        </tbody>
        <tfoot>
          <tr>
            <td colSpan={2} className="quiet">
              <span className="key-diamond">◆</span> adjusted, with its interval
              <br />
              <span className="key-alone">○</span> on its own, in the same rows
            </td>
            <td className="picture">
              <svg width={width} height={44} aria-hidden="true">
                {ticks.map((v) => (
                  <text key={v} x={x(v)} y={14} textAnchor="middle">
                    {v}
                  </text>
                ))}
                <text x={x(1) - 10} y={34} textAnchor="end" className="quiet">
                  ← slower
                </text>
                <text x={x(1) + 10} y={34} className="quiet">
                  faster →
                </text>
              </svg>
            </td>
            <td colSpan={4} />
          </tr>
        </tfoot>
      </table>
    </div>
  );
}

function Figures({ reading, column }: { reading: Ratio; column: number }) {
  if (reading.ratio === null) {
    const ends = [
      reading.lower === null ? "" : `above ${ratio(reading.lower)}; `,
      reading.upper === null ? "" : `below ${ratio(reading.upper)}; `,
    ].join("");
    return (
      <td colSpan={3} className="no-ratio">
        {ends}
        {reading.note}
      </td>
    );
  }
  return (
    <>
      <td>
        <WorkedNumber of={{ figure: "hazard-ratio", column }}>{ratio(reading.ratio)}</WorkedNumber>
      </td>
      <td>{interval(reading.lower, reading.upper, ratio)}</td>
      <td>{pValue(reading.p)}</td>
    </>
  );
}

function shortly(reading: Ratio): string {
  if (reading.ratio === null) return "none";
  return `${ratio(reading.ratio)} (${interval(reading.lower, reading.upper, ratio)})`;
}

function Interval({
  reading,
  x,
  low,
  high,
}: {
  reading: Ratio;
  x: (v: number) => number;
  low: number;
  high: number;
}) {
  const { ratio: middle, lower, upper } = reading;
  if (middle === null && lower === null && upper === null) return null;
  const from = x(lower ?? low);
  const to = x(upper ?? high);
  return (
    <g>
      <line x1={from} x2={to} y1={14} y2={14} className="interval" />
      {(lower ?? 0) < low ? <path d={`M${from} 14l6-4v8z`} className="beyond" /> : null}
      {(upper ?? Number.POSITIVE_INFINITY) > high ? (
        <path d={`M${to} 14l-6-4v8z`} className="beyond" />
      ) : null}
      {middle === null ? null : <path d={`M${x(middle)} 8l6 6l-6 6l-6-6z`} className="diamond" />}
    </g>
  );
}

/** A log axis that holds the intervals, but is not stretched by one that is very wide. */
function domain(result: ModelResult): [number, number] {
  let reach = Math.log(2.2);
  for (const term of result.terms)
    for (const c of term.coefficients)
      for (const v of [c.adjusted.lower, c.adjusted.upper, c.alone.ratio])
        if (v !== null && v > 0) reach = Math.max(reach, Math.abs(Math.log(v)));
  const bound = Math.min(reach * 1.05, Math.log(100));
  return [Math.exp(-bound), Math.exp(bound)];
}

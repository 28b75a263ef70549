import { useLayoutEffect, useRef, useState } from "react";
import type { FollowUpLine, PrepareResult } from "../../api/types";
import { fittingTicks } from "../../tracks/fittingTicks";
import { scaleOf } from "../../tracks/scales";
import "./FollowUpPicture.css";

const ROW = 7;
const LEFT = 24;
const RIGHT = 40;
const GLYPHS: Record<number, string> = {
  1: "event",
  0: "censored",
  2: "competing",
  [-1]: "without a meaning",
  [-2]: "set aside",
};

/** Follow-up of each row: a line each, from entry to end, with how it ended. */
export function FollowUpPicture({ result }: { result: PrepareResult }) {
  const frame = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(760);
  useLayoutEffect(() => {
    const box = frame.current;
    if (!box) return;
    const watch = new ResizeObserver(() => setWidth(Math.max(box.clientWidth, 380)));
    watch.observe(box);
    return () => watch.disconnect();
  }, []);
  const lines = result.lines;
  const x = scaleOf(result.across, LEFT, width - RIGHT);
  const height = lines.length * ROW + 12;
  const kinds = [...new Set(lines.map((l) => l.status))].sort((a, b) => b - a);
  return (
    <figure className="picture-of-rows" ref={frame}>
      <figcaption>
        <h2>Follow-up of each row</h2>
        <span className="legend">
          {kinds.map((kind) => (
            <span key={kind}>
              <svg width="14" height="12" aria-hidden="true">
                <End status={kind} x={7} y={6} />
              </svg>{" "}
              {GLYPHS[kind]}
            </span>
          ))}
        </span>
      </figcaption>
      {lines.length ? (
        <svg
          width={width}
          height={height + 42}
          role="img"
          aria-label={`Follow-up lines. ${result.lines_note}`}
        >
          {lines.map((line, k) => (
            <Row key={`${line.label}${k}`} line={line} y={6 + k * ROW} x={x} />
          ))}
          <g transform={`translate(0 ${height})`} className="picture-axis">
            <line x1={LEFT} x2={width - RIGHT} y1={0} y2={0} />
            {fittingTicks(result.across, width - LEFT - RIGHT, false).map((tick) => (
              <g key={tick.at} transform={`translate(${x(tick.at)} 0)`}>
                <line y2={5} />
                <text y={18} textAnchor="middle">
                  {tick.label}
                </text>
              </g>
            ))}
            <text x={(LEFT + width - RIGHT) / 2} y={36} textAnchor="middle">
              {result.across.label}
            </text>
          </g>
        </svg>
      ) : null}
      <p className="quiet">{result.lines_note}</p>
    </figure>
  );
}

function Row({ line, y, x }: { line: FollowUpLine; y: number; x: (t: number) => number }) {
  return (
    <g>
      <title>{`${line.label}: ${line.start} to ${line.end}, ${GLYPHS[line.status]}`}</title>
      <line x1={x(line.start)} x2={x(line.end)} y1={y} y2={y} className="follow-line" />
      {line.start > 0 ? <path d={`M${x(line.start)} ${y - 3}v6`} className="late" /> : null}
      <End status={line.status} x={x(line.end)} y={y} />
    </g>
  );
}

/** How a follow-up ended, told by shape as well as colour. */
function End({ status, x, y }: { status: number; x: number; y: number }) {
  if (status === 1) return <circle cx={x} cy={y} r={3.4} className="event-dot" />;
  if (status === 2)
    return <path d={`M${x} ${y - 4.4}l4.4 4.4l-4.4 4.4l-4.4-4.4z`} className="competing-dot" />;
  if (status === 0) return <path d={`M${x} ${y - 4}v8`} className="censored-tick" />;
  return <path d={`M${x - 3} ${y - 3}l6 6m0-6l-6 6`} className="unknown-cross" />;
}

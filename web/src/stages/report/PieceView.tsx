import { useState } from "react";
import type { ReportPiece, ReportTable, ReportWords } from "../../api/types";
import { Caution, Shape } from "../../readings/Readings";
import { ColumnHead } from "../../tables/ColumnHead";
import { EditableWords } from "./EditableWords";
import { CitedSentences, Sources } from "./Sources";

type Write = (words: ReportWords, text: string | null) => void;

/** A piece of the report as it is read, its words to be edited. */
export function PieceView({
  study,
  piece,
  onWrite,
}: {
  study: string;
  piece: ReportPiece;
  onWrite: Write;
}) {
  const { title, paragraphs, refers, tables, figure, cautions, items, note } = piece;
  const [pointed, setPointed] = useState<readonly string[]>([]);
  return (
    <>
      <EditableWords as="h2" words={title} onWrite={onWrite} />
      <Sources study={study} sources={piece.sources} pointed={pointed} onPoint={setPointed} />
      {paragraphs.map((words) => (
        <EditableWords key={words.key} words={words} onWrite={onWrite}>
          {words.sentences.length ? (
            <CitedSentences
              sentences={words.sentences}
              every={piece.sources.length}
              pointed={pointed}
              onPoint={setPointed}
            />
          ) : null}
        </EditableWords>
      ))}
      {refers ? <p>{refers}</p> : null}
      {tables.map((table) => (
        <TableView key={table.key} table={table} onWrite={onWrite} />
      ))}
      {figure ? (
        <figure>
          <img
            src={`data:image/svg+xml;charset=utf-8,${encodeURIComponent(figure.svg)}`}
            alt={figure.name}
          />
          <figcaption>
            {figure.caption}
            {figure.note ? (
              <EditableWords className="quiet" words={figure.note} onWrite={onWrite} />
            ) : null}
          </figcaption>
        </figure>
      ) : null}
      {cautions.map((caution) => (
        <Caution key={caution.key} caution={caution} />
      ))}
      {items.length ? (
        <ol>
          {items.map((item) => (
            <li key={item}>{item}</li>
          ))}
        </ol>
      ) : null}
      {note ? <EditableWords className="quiet" words={note} onWrite={onWrite} /> : null}
    </>
  );
}

function TableView({ table, onWrite }: { table: ReportTable; onWrite: Write }) {
  const words = (k: number) => (table.wordy[k] ? "words-cell" : undefined);
  return (
    <div className="report-scroll">
      <table className="report-table">
        <caption>{table.caption}</caption>
        <thead>
          <tr>
            {table.head.map((head, k) => (
              <ColumnHead key={k} words={head} className={words(k)} />
            ))}
          </tr>
        </thead>
        <tbody>
          {table.rows.map((row, r) => (
            <tr key={r}>
              {row.map((cell, k) => {
                const Tag = k === 0 ? "th" : "td";
                return (
                  <Tag key={k} {...(k === 0 ? { scope: "row" } : {})} className={words(k)}>
                    {cell.verdict ? <Shape verdict={cell.verdict} /> : null} {cell.text}
                  </Tag>
                );
              })}
            </tr>
          ))}
        </tbody>
      </table>
      {table.note ? <EditableWords className="quiet" words={table.note} onWrite={onWrite} /> : null}
    </div>
  );
}

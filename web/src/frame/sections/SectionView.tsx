import Button from "@mui/material/Button";
import { type ReactNode, useId, useState } from "react";
import { usePart } from "../../api/queries";
import type {
  Caution,
  ContentBlock,
  Section as SectionData,
  StageResult,
  TimeLine,
} from "../../api/types";
import { useView } from "../../api/view";
import { tied } from "../../numbers/tied";
import { Section } from "../../readings/Readings";
import { TimeField } from "../../readings/TimeField";
import { useReadTime } from "../../sandLine/sandTime";
import { Refused } from "../ReasonField";
import { StageCautions } from "../StageCautions";
import { Working } from "../StagePage";
import { ActionBlock } from "./ActionBlock";
import { TableBlock } from "./TableBlock";
import { TimedBlock } from "./TimedBlock";
import "./SectionView.css";

interface Where {
  study: string;
  stage: string;
  result: StageResult;
}

/** A section of a stage's readings, at the side or under the figure. */
export function SectionView({ section, ...where }: Where & { section: SectionData }) {
  const body = section.part ? (
    <OfferedPart {...where} part={section.part} offer={section.offer} />
  ) : (
    <Blocks {...where} blocks={section.blocks} />
  );
  if (section.place === "main")
    return <UnderTheFigure title={section.title}>{body}</UnderTheFigure>;
  const timed = section.blocks.some((block) => block.kind === "timed");
  const figure = where.result.figure;
  const title =
    timed && figure?.time ? (
      <TimeHeading study={where.study} time={figure.time} end={figure.high} />
    ) : (
      section.title
    );
  return <Section title={title}>{body}</Section>;
}

function UnderTheFigure({ title, children }: { title: string; children: ReactNode }) {
  const id = useId();
  return (
    <section className="under-figure" aria-labelledby={id}>
      <h2 id={id}>{title}</h2>
      {children}
    </section>
  );
}

function TimeHeading({ study, time, end }: { study: string; time: TimeLine; end: number }) {
  const t = useReadTime(study, end, time.start);
  return <TimeField study={study} t={t} end={end} unit={time.unit} decimals={time.decimals} />;
}

/** A part that takes long is requested; any other is there by itself. */
function OfferedPart({ offer, ...of }: Where & { part: string; offer: string }) {
  const [requested, setRequested] = useState(!offer);
  if (requested) return <Part {...of} />;
  return (
    <Button variant="outlined" onClick={() => setRequested(true)}>
      {offer}
    </Button>
  );
}

/** A part that takes its time: its progress, then its blocks. */
function Part({ part, ...where }: Where & { part: string }) {
  const { analysis } = useView();
  const query = usePart(where.study, where.stage, part, analysis);
  const reply = query.data;
  if (query.error) return <Refused error={query.error} />;
  if (reply?.work) return <Working work={reply.work} />;
  if (!reply?.result) return <p className="quiet">Computing …</p>;
  return (
    <div data-changing={query.isFetching}>
      <Blocks {...where} blocks={reply.result.sections.flatMap((s) => s.blocks)} />
    </div>
  );
}

function Blocks({ blocks, ...where }: Where & { blocks: readonly ContentBlock[] }) {
  return blocks.map((block, k) => <AnyBlock key={k} block={block} {...where} />);
}

function AnyBlock({ block, study, stage, result }: Where & { block: ContentBlock }) {
  switch (block.kind) {
    case "table":
      return <TableBlock stage={stage} table={block} />;
    case "words":
      return <Paragraph text={block.text} items={block.items} quiet={block.quiet} />;
    case "timed":
      return result.figure?.time ? (
        <TimedBlock
          study={study}
          stage={stage}
          drawing={result.drawing}
          time={result.figure.time}
          end={result.figure.high}
          table={block}
        />
      ) : null;
    case "action":
      return <ActionBlock study={study} action={block} />;
    case "cautions":
      return <StageCautions study={study} stage={stage} cautions={result.cautions as Caution[]} />;
  }
}

function Paragraph({ text, items, quiet }: { text: string; items: string[]; quiet: boolean }) {
  return (
    <>
      {text ? <p className={quiet ? "quiet" : ""}>{tied(text)}</p> : null}
      {items.length ? (
        <ul>
          {items.map((item) => (
            <li key={item}>{tied(item)}</li>
          ))}
        </ul>
      ) : null}
    </>
  );
}

import Button from "@mui/material/Button";
import LinearProgress from "@mui/material/LinearProgress";
import type { CSSProperties, ReactNode } from "react";
import { Link } from "react-router";
import { cancelWork } from "../api/queries";
import type { Blocking, Choices, Sentence, Trial, Work } from "../api/types";
import { type Added, type OnSet, StatementBar } from "../statement/StatementBar";
import { WorkingsDrawer } from "../workings/WorkingsDrawer";
import { WorkingsProvider } from "../workings/workings";
import { ChoiceStrip } from "./ChoiceStrip";
import { Refused } from "./ReasonField";
import "./StagePage.css";

interface Props {
  study: string;
  title: string;
  /** The line above the statement: what is followed. */
  context?: ReactNode;
  /** The views of the stage, above its statement. */
  views?: ReactNode;
  /** Several views stand beside each other: their readings are under them. */
  beside?: boolean;
  sentence?: Sentence | undefined;
  /** What can be chosen above the statement. */
  choices?: Choices | null | undefined;
  onSet?: OnSet;
  /** What has just been added to the sentence. */
  added?: readonly Added[] | undefined;
  onTry?: (field: string, value: unknown) => void;
  /** What is shown is being replaced: it is not current. */
  changing?: boolean;
  /** What is shown is of what was stated before: nothing can be changed by it. */
  replaced?: boolean;
  /** What is read of a statement that is being tried; the numbers of the one before are hidden then. */
  tried?: Trial | null;
  /** The tones of groups, where they are not those of the page. */
  tones?: CSSProperties | undefined;
  error?: Error | null | undefined;
  readings: ReactNode;
  /** What the workings drawer states while it is closed. */
  hint: string;
  children: ReactNode;
}

/** The frame all stages share: statement on top, figure, readings at the right, workings below. */
export function StagePage(props: Props) {
  const { study, title, context, sentence, onSet, onTry, changing, error, readings, hint } = props;
  return (
    <WorkingsProvider key={title}>
      <div className={props.beside ? "stage beside" : "stage"} style={props.tones}>
        <header className="stage-head">
          <h1 className="sr">{title}</h1>
          <div className="stage-line">
            <p className="context">{context}</p>
            {props.views}
          </div>
          <div inert={props.replaced}>
            {props.choices ? <ChoiceStrip study={study} choices={props.choices} /> : null}
          </div>
          {sentence && onSet ? (
            <StatementBar
              sentence={sentence}
              held={props.replaced}
              added={props.added}
              onSet={onSet}
              onTry={onTry}
            />
          ) : null}
          <Refused error={error} />
        </header>
        <main
          className="stage-main"
          id="main"
          tabIndex={-1}
          aria-busy={changing}
          data-changing={changing}
        >
          {props.children}
        </main>
        <div className="stage-side" data-changing={changing} inert={props.replaced}>
          {props.tried ? <Tried tried={props.tried} /> : null}
          <div className={props.tried ? "side-numbers of-before" : "side-numbers"}>{readings}</div>
        </div>
        <div className="stage-foot">
          <WorkingsDrawer study={study} hint={hint} />
        </div>
      </div>
    </WorkingsProvider>
  );
}

/** What is read while something is being tried: no p-value, for nothing is tested before it is set. */
function Tried({ tried }: { tried: Trial }) {
  return (
    <section className="tried" role="status" aria-label="While it moves">
      <h2>While it moves</h2>
      {tried.readings.map((reading) => (
        <p key={reading}>{reading}</p>
      ))}
      {tried.note ? <p className="quiet">{tried.note}</p> : null}
    </section>
  );
}

/** Work under way, with its progress and a way to stop it; over what it will replace, if that is shown. */
export function Working({ work, over }: { work: Work; over?: boolean }) {
  return (
    <div className={over ? "notice over" : "notice"} role="status">
      <p>
        {work.what.charAt(0).toUpperCase() + work.what.slice(1)} … {Math.round(100 * work.share)}%
      </p>
      <LinearProgress variant="determinate" value={100 * work.share} aria-label="Progress" />
      <Button onClick={() => void cancelWork(work.id)}>Cancel</Button>
    </div>
  );
}

/** What must be decided before this stage can show a number. */
export function Blocked({ study, blocks }: { study: string; blocks: readonly Blocking[] }) {
  return (
    <div className="notice">
      <h2>This waits for Prepare</h2>
      <ul>
        {blocks.map((block) => (
          <li key={block.sentence}>{block.sentence}</li>
        ))}
      </ul>
      <Button component={Link} to={`/studies/${study}/prepare`} variant="contained">
        Open Prepare
      </Button>
    </div>
  );
}

import { AskWords } from "./AskWords";
import { REASON } from "./ReasonField";

/** Asks why, before a decision is recorded; the reason may be left out. */
export function AskReason({
  onDecide,
  ...requested
}: {
  title: string;
  act: string;
  busy: boolean;
  error?: Error | null;
  onDecide: (reason: string) => void;
  onClose: () => void;
}) {
  return <AskWords {...requested} question={REASON} onSubmit={onDecide} />;
}

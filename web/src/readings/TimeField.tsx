import { useEffect, useState } from "react";
import { timeText } from "../numbers/format";
import { setSandTime } from "../sandLine/sandTime";
import "./TimeField.css";

/** The sand line's time as a field to type into. */
export function TimeField({
  study,
  t,
  end,
  unit,
  decimals,
}: {
  study: string;
  t: number;
  end: number;
  unit: string;
  decimals: number;
}) {
  const [text, setText] = useState(timeText(t, decimals));
  useEffect(() => setText(timeText(t, decimals)), [t, decimals]);
  const apply = () => {
    const typed = Number.parseFloat(text.replace(",", "."));
    if (Number.isFinite(typed)) setSandTime(study, Math.min(Math.max(typed, 0), end));
    else setText(timeText(t, decimals));
  };
  return (
    <span className="time-field">
      At{" "}
      <input
        aria-label={`Time read, in ${unit}`}
        inputMode="decimal"
        size={Math.max(text.length, 4)}
        value={text}
        onChange={(event) => setText(event.target.value)}
        onBlur={apply}
        onKeyDown={(event) => event.key === "Enter" && apply()}
      />{" "}
      {unit}
    </span>
  );
}

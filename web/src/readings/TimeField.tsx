import { useEffect, useState } from "react";
import { setSandTime } from "../sand/sandTime";

/** The sand line's time as a field to type into. */
export function TimeField({
  study,
  t,
  end,
  unit,
  digits,
}: {
  study: string;
  t: number;
  end: number;
  unit: string;
  digits: number;
}) {
  const [text, setText] = useState(t.toFixed(digits));
  useEffect(() => setText(t.toFixed(digits)), [t, digits]);
  const take = () => {
    const typed = Number.parseFloat(text.replace(",", "."));
    if (Number.isFinite(typed)) setSandTime(study, Math.min(Math.max(typed, 0), end));
    else setText(t.toFixed(digits));
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
        onBlur={take}
        onKeyDown={(event) => event.key === "Enter" && take()}
      />{" "}
      {unit}
    </span>
  );
}

import { useTables } from "../../../api/queries";
import { grouped } from "../../../numbers/format";

/** The further tables beside the study's file, and what they make of its rows. */
export function TablesLine({ study, onOpen }: { study: string; onOpen: () => void }) {
  const data = useTables(study).data;
  const names = data?.tables.map((one) => one.name) ?? [];
  return (
    <button type="button" className="in-line" onClick={onOpen}>
      {names.length === 0
        ? "add a table"
        : data?.blocked.length
          ? `with ${names.join(", ")}: not joined yet`
          : `with ${names.join(", ")}${data?.pieces ? `, in ${grouped(data.pieces)} rows` : ""}`}
    </button>
  );
}

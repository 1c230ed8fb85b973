// Rows that cannot be used: named, each mended, taken out or undone; the rest of the job goes on.
import { Button } from "antd";
import { useOnce } from "../parts/once";
import type { Collection, Editing } from "../api/edits";
import type { Schemas } from "../api/client";

type Broken = Schemas["Broken"];

export function Aside({ rows, edit }: { rows: readonly Broken[]; edit: Editing }) {
  const [busy, once] = useOnce();
  if (!rows.length) return null;
  return (
    <section className="note danger aside-rows" role="alert" aria-label="What cannot be used">
      <div className="aside-head">
        <b>
          {rows.length > 1
            ? `${rows.length} things in this job cannot be used and are left out of every figure.`
            : "One thing in this job cannot be used and is left out of every figure."}
        </b>
        <Button disabled={busy} onClick={() => void once(edit.undo)}>
          Undo my last edit
        </Button>
      </div>
      <ul>
        {rows.map((row) => (
          <One key={`${row.collection}.${row.row}`} row={row} edit={edit} />
        ))}
      </ul>
    </section>
  );
}

function One({ row, edit }: { row: Broken; edit: Editing }) {
  const [busy, once] = useOnce();
  const at = { id: row.row, version: row.version };
  const itself = row.collection === "jobs";
  const collection = row.collection as Collection;
  return (
    <li>
      <span>
        {row.name}: {[row.what, row.mend].filter(Boolean).join("; ")}
      </span>
      <span className="acts">
        {row.changes ? (
          <Button disabled={busy} onClick={() => void once(() => edit.tryChange(collection, at, row.changes ?? {}))}>
            Use {row.instead} there
          </Button>
        ) : null}
        {itself ? null : (
          <Button disabled={busy} onClick={() => void once(() => edit.remove(collection, at))}>
            Take it out
          </Button>
        )}
      </span>
    </li>
  );
}

// A list of materials brought in: what would change is shown first, and done on a click, all or nothing.
import { Button, Modal } from "antd";
import { useEffect, useState } from "react";
import { upload, type Schemas } from "../api/client";
import { useWorkshop } from "../api/workshop";
import { Note } from "../parts/said";

type Done = Schemas["ShelfImport"];

export function ImportShelf({ file, close }: { file: File; close: () => void }) {
  const workshop = useWorkshop();
  const [match, setMatch] = useState(false);
  const [seen, setSeen] = useState<Done | null>(null);
  const [wrong, setWrong] = useState("");
  const send = (dry: boolean, by: boolean) =>
    upload<Done>("/api/shelf/import", { file, dry_run: String(dry), match: String(by) });
  useEffect(() => {
    let gone = false;
    upload<Done>("/api/shelf/import", { file, dry_run: "true", match: String(match) })
      .then((found) => {
        if (gone) return;
        setSeen(found);
        setWrong("");
      })
      .catch((error: unknown) => {
        if (!gone) setWrong(error instanceof Error ? error.message : "Not read.");
      });
    return () => {
      gone = true;
    };
  }, [file, match]);
  const take = async () => {
    try {
      await send(false, match);
      await workshop.fresh();
      close();
    } catch (error) {
      setWrong(error instanceof Error ? error.message : "Not taken.");
    }
  };
  const nothing = seen !== null && seen.added + seen.changed === 0;
  return (
    <Modal
      open
      onCancel={close}
      title={`What “${file.name}” would change`}
      footer={[
        <Button key="leave" onClick={close}>
          Leave the shelf as it is
        </Button>,
        <Button key="take" type="primary" disabled={!seen || nothing || Boolean(wrong)} onClick={() => void take()}>
          Take it
        </Button>,
      ]}
    >
      <div className="form">
        <label className="tickline">
          <input type="checkbox" checked={match} onChange={(e) => setMatch(e.target.checked)} />
          <span>It is a supplier’s list: find materials by their order numbers</span>
        </label>
        {wrong ? <Note kind="danger">{wrong}</Note> : null}
        {seen && !wrong ? (
          <>
            <p>
              <b>{seen.added}</b> new, <b>{seen.changed}</b> changed, {seen.same} the same.
            </p>
            {seen.materials.map((m) => (
              <Note key={m.id} kind={m.added ? "good" : "info"}>
                <b>{m.name}</b> {m.added ? "is new" : m.changes.join("; ")}
              </Note>
            ))}
            {seen.doubts.map((d) => (
              <Note key={d} kind="warn">
                {d}.
              </Note>
            ))}
            {seen.unknown.length ? (
              <p className="small">Not on this shelf, and left out: {seen.unknown.slice(0, 12).join(", ")}.</p>
            ) : null}
          </>
        ) : null}
      </div>
    </Modal>
  );
}

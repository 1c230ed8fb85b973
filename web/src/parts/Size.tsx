// A surface measured and drawn where it is first named: pulled on its drawing, typed off a tape, or taken from a drawing or photograph.
import { Button, Modal } from "antd";
import { useState } from "react";
import { useStage } from "../api/hooks";
import { useWidth } from "../charts/Chart";
import { useBegun } from "./begun";
import { measured, USUAL_SIZE } from "./drawing/measured";
import { SurfaceDrawing } from "./drawing/SurfaceDrawing";
import type { Given } from "./given";
import { useLatest } from "./given";
import { useOnce } from "./once";
import { Note } from "./said";
import { Drawn, isGiven, outlineOf, ShapeFields, useOutline, type Form } from "./shape";
import type { StageProps } from "./stage";
import { useUnits } from "./units";

type Props = StageProps & { surface_id: number; close: () => void };

export function Size({ id, page, edit, surface_id, close }: Props) {
  const row = page.document.surfaces.find((s) => s.id === surface_id);
  const view = useStage(id, "cut", page.revision, { surface_id }).data?.surface;
  const [top, room] = useWidth<HTMLDivElement>(640);
  const [form, setForm] = useState<Form | null>(null);
  if (!row) return null;
  return (
    <Modal title={row.name} open onCancel={close} width={780} footer={<Button onClick={close}>Done</Button>}>
      {row.made_from === USUAL_SIZE ? (
        <Note kind="info">This is the usual size of such a panel. Pull its edges, type its sizes, or measure it.</Note>
      ) : null}
      <div ref={top}>
        {view && !form ? (
          <SurfaceDrawing
            view={view}
            row={row}
            layer={undefined}
            edit={edit}
            room={room}
            lit=""
            light={() => undefined}
            all={false}
          />
        ) : null}
      </div>
      {form ? (
        <Taped form={form} set={setForm} row={row} edit={edit} done={() => setForm(null)} />
      ) : (
        <Button onClick={() => setForm({ kind: "rectangle" })}>Another shape: by tape, drawing or photograph</Button>
      )}
    </Modal>
  );
}

type TapedProps = Pick<Props, "edit"> & {
  form: Form;
  set: (form: Form) => void;
  row: StageProps["page"]["document"]["surfaces"][number];
  done: () => void;
};

function Taped({ form, set, row, edit, done }: TapedProps) {
  const units = useUnits();
  const given = useLatest<Given>();
  const shape = useOutline(form, given.value?.outline_mm ?? null);
  const begun = useBegun(row);
  const [wrong, setWrong] = useState("");
  const [busy, once] = useOnce();
  const take = () =>
    once(async () => {
      try {
        const found = isGiven(form.kind) ? await given.latest() : await outlineOf(form, units);
        if (!found) throw new Error("No outline yet: fill in what is asked above.");
        const value = "kept" in found && found.kept ? found.kept.surface.outline_mm : found.outline_mm;
        await edit.operate("surfaces", begun, measured(begun, { op: "set", at: ["outline_mm"], value }));
        done();
      } catch (error) {
        setWrong(error instanceof Error ? error.message : "Not kept.");
      }
    });
  return (
    <div className="form">
      <ShapeFields form={form} set={set} give={given.ask} />
      {shape.wrong ? <Note kind="warn">{shape.wrong}</Note> : <Drawn {...shape} />}
      {wrong ? <Note kind="danger">{wrong}</Note> : null}
      <div className="acts">
        <Button type="primary" loading={busy} onClick={() => void take()}>
          Take this outline
        </Button>
        <Button onClick={done}>Leave it</Button>
      </div>
    </div>
  );
}

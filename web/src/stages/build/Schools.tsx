// Where practitioners disagree: a school's ways computed for this surface; the pick becomes the workshop's usual.
import { Button, Input } from "antd";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { query } from "../../api/client";
import { useAddress } from "../../parts/address";
import { Lead, State } from "../../parts/said";
import type { StageProps } from "../../parts/stage";
import { useWorkshop } from "../../api/workshop";
import { TableOf } from "./Compare";

type Props = { id: number; revision: number; surface: number; zone: string; edit: StageProps["edit"] };

export function Schools({ id, revision, surface, zone, edit }: Props) {
  const address = useAddress();
  const list = query.useQuery("get", "/api/jobs/{job_id}/schools", { params: { path: { job_id: id } } });
  const open = list.data?.schools.find((s) => s.id === address.get("school")) ?? list.data?.schools[0];
  const asked = query.useQuery(
    "get",
    "/api/jobs/{job_id}/schools/{school}",
    {
      params: { path: { job_id: id, school: open?.id ?? "" }, query: { surface_id: surface, zone } },
      revision,
    },
    { enabled: Boolean(open), placeholderData: (before) => before },
  );
  const data = asked.data as Schemas["SchoolView"] | undefined;
  return (
    <State query={list}>
      <div className="chips" role="group" aria-label="Where fitters disagree">
        {list.data?.schools.map((s) => (
          <button
            key={s.id}
            className="chip"
            aria-pressed={s.id === open?.id}
            onClick={() => address.put({ school: s.id })}
          >
            {s.title}
          </button>
        ))}
      </div>
      <State query={asked}>
        {data && data.id === open?.id ? (
          <OneSchool key={data.id} data={data} surface={surface} zone={zone} edit={edit} />
        ) : null}
      </State>
    </State>
  );
}

type OneProps = { data: Schemas["SchoolView"]; surface: number; zone: string; edit: StageProps["edit"] };

function OneSchool({ data, surface, zone, edit }: OneProps) {
  const address = useAddress();
  const workshop = useWorkshop();
  const usual = data.ways.find((w) => w.usual);
  const [picked, setPicked] = useState(usual?.id ?? "");
  const [reason, setReason] = useState(data.reason);
  const take = (ids: readonly string[]) =>
    edit
      .create(
        "alternatives",
        data.ways
          .filter((w) => ids.includes(w.id))
          .map((w) => ({ surface_id: surface, zone, name: w.row.name, layers: w.layers, chosen: false })),
      )
      .then((made) => address.go({ view: "table", plan: Number(made[0]?.["id"]) || null }))
      .catch(edit.say);
  const keep = () => workshop.put("settings", "name", `school-${data.id}`, { words: `${picked}: ${reason.trim()}` });
  return (
    <>
      <Lead
        sentence={data.question}
        detail={usual ? `Usual here: ${usual.row.name}${data.reason ? `, “${data.reason}”` : ""}.` : ""}
      />
      <TableOf
        rows={data.ways.map((w) => w.row)}
        hz={data.frequency_hz}
        act={(r) => void take([r.preset])}
        verb="Take"
      />
      <div className="acts">
        <Button type="primary" onClick={() => void take(data.ways.map((w) => w.id))}>
          Put them among the alternatives
        </Button>
      </div>
      <div className="acts">
        <span>The usual here:</span>
        {data.ways.map((w) => (
          <button key={w.id} className="chip" aria-pressed={w.id === picked} onClick={() => setPicked(w.id)}>
            {w.row.name}
          </button>
        ))}
        <Input
          value={reason}
          aria-label="Why it is the usual"
          placeholder="why"
          onChange={(e) => setReason(e.target.value)}
        />
        <Button disabled={!picked} onClick={() => void keep()}>
          Keep as the workshop’s usual
        </Button>
      </div>
    </>
  );
}

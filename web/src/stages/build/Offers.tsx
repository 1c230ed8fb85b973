// What the shelf has by now for the materials of this job: shown, and taken on a click, never by itself.
import { Button } from "antd";
import { memo } from "react";
import { useQueryClient } from "@tanstack/react-query";
import { query } from "../../api/client";
import { SHELF_KEY } from "../../api/keys";
import { Note } from "../../parts/said";
import type { StageProps } from "../../parts/stage";
import { sameBut } from "../../parts/steady";

export const Offers = memo(function Offers({
  id,
  revision,
  edit,
}: {
  id: number;
  revision: number;
  edit: StageProps["edit"];
}) {
  const client = useQueryClient();
  const asked = query.useQuery(
    "get",
    "/api/jobs/{job_id}/shelf",
    { params: { path: { job_id: id } }, revision },
    { placeholderData: (before) => before },
  );
  const data = asked.data;
  if (!data?.sentence) return null;
  const done = () => Promise.all([asked.refetch(), client.invalidateQueries({ queryKey: SHELF_KEY })]);
  const take = (materials: readonly string[]) =>
    edit.post("shelf", { materials, onto_shelf: [] }).then(done).catch(edit.say);
  const put = (materials: readonly string[]) =>
    edit.post("shelf", { materials: [], onto_shelf: materials }).then(done).catch(edit.say);
  return (
    <details>
      <summary>
        <b>{data.sentence}</b>
      </summary>
      {data.offers.map((o) => (
        <Note key={o.material} kind="info">
          <b>{o.name}</b>: {o.changes.join("; ")}{" "}
          <Button size="small" onClick={() => void take([o.material])}>
            Take it
          </Button>
        </Note>
      ))}
      {data.offers.length > 1 ? (
        <Button onClick={() => void take(data.offers.map((o) => o.material))}>Take all</Button>
      ) : null}
      {data.unknown.map((o) => (
        <Note key={o.material} kind="info">
          <b>{o.name}</b> is known to this job alone.{" "}
          <Button size="small" onClick={() => void put([o.material])}>
            Put it on the shelf
          </Button>
        </Note>
      ))}
    </details>
  );
}, sameBut("edit"));

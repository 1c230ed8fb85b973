// Find anything by its name: a stage, a surface, a path, a round, another job.
import { Input, Modal, type InputRef } from "antd";
import { useMemo, useRef, useState } from "react";
import { useNavigate } from "react-router";
import type { Schemas } from "../api/client";
import { useJobs } from "../api/hooks";
import { STAGES, titled } from "../parts/stage";

export function Find({ id, page, close }: { id: number; page: Schemas["JobPage"] | undefined; close: () => void }) {
  const [text, setText] = useState("");
  const field = useRef<InputRef>(null);
  const jobs = useJobs(0, text.trim());
  const go = useNavigate();
  const hits = useMemo(() => {
    const doc = page?.document;
    const all = [
      ...STAGES.map((s) => ({ name: titled(s), kind: "stage", to: `/jobs/${id}/${s}` })),
      ...(doc?.surfaces ?? []).map((s) => ({ name: s.name, kind: "surface", to: `/jobs/${id}/build?surface=${s.id}` })),
      ...(doc?.paths ?? []).map((p) => ({ name: p.name, kind: "path", to: `/jobs/${id}/trace?path=${p.id}` })),
      ...(doc?.rounds ?? []).map((r) => ({ name: r.name, kind: "round", to: `/jobs/${id}/listen?round=${r.id}` })),
      ...(jobs.data?.jobs ?? []).map((c) => ({ name: c.job.name, kind: "job", to: `/jobs/${c.job.id}` })),
    ];
    const wanted = text.trim().toLowerCase();
    return all.filter((h) => h.name.toLowerCase().includes(wanted)).slice(0, 9);
  }, [text, page, jobs.data, id]);
  const open = (to: string) => {
    close();
    void go(to);
  };
  return (
    <Modal
      open
      onCancel={close}
      footer={null}
      title="Find"
      afterOpenChange={(shown) => shown && field.current?.focus()}
    >
      <div className="form">
        <Input
          ref={field}
          autoFocus
          value={text}
          placeholder="a surface, a path, a round, a job"
          aria-label="Find"
          onChange={(e) => setText(e.target.value)}
          onPressEnter={() => hits[0] && open(hits[0].to)}
        />
        <div className="rows">
          {hits.map((h) => (
            <div key={h.kind + h.to + h.name}>
              <button className="key" onClick={() => open(h.to)}>
                {h.name}
              </button>
              <span className="small">{h.kind}</span>
            </div>
          ))}
          {hits.length ? null : <p className="small">Nothing of that name.</p>}
        </div>
      </div>
    </Modal>
  );
}

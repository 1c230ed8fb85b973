// Jobs that were thrown away: brought back, or let go for good.
import { useQueryClient } from "@tanstack/react-query";
import { App, Button, Modal } from "antd";
import { api, ask, query } from "../api/client";
import { BOARD } from "../api/keys";

const KEY = ["get", "/api/trash"];

export function useTrash() {
  return query.useQuery("get", "/api/trash").data?.jobs ?? [];
}

export function Trash({ close }: { close: () => void }) {
  const jobs = useTrash();
  const client = useQueryClient();
  const { message } = App.useApp();
  const work = async (doing: () => Promise<unknown>) => {
    try {
      await doing();
    } catch (error) {
      void message.error(error instanceof Error ? error.message : "That did not work.", 8);
    }
    await Promise.all([client.invalidateQueries({ queryKey: KEY }), client.invalidateQueries({ queryKey: BOARD })]);
  };
  return (
    <Modal open onCancel={close} footer={null} title="Thrown away">
      <div className="rows">
        {jobs.map((j) => (
          <div key={j.id}>
            <span>
              {j.name} <span className="small">until {j.until}</span>
            </span>
            <span className="acts">
              <Button
                onClick={() =>
                  void work(() => ask(api.POST("/api/trash/{job_id}/restore", { params: { path: { job_id: j.id } } })))
                }
              >
                Bring back
              </Button>
              <Button
                danger
                onClick={() =>
                  void work(() => ask(api.DELETE("/api/trash/{job_id}", { params: { path: { job_id: j.id } } })))
                }
              >
                Let go for good
              </Button>
            </span>
          </div>
        ))}
        {jobs.length ? null : <p className="small">Nothing is here.</p>}
      </div>
    </Modal>
  );
}

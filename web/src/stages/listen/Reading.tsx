// How far the reading of a long recording is, while it goes on behind the page; it can be stopped.
import { Button, Progress } from "antd";
import { api, query } from "../../api/client";

export function Reading({ ticket }: { ticket: string }) {
  const asked = query.useQuery(
    "get",
    "/api/tickets/{ticket}",
    { params: { path: { ticket } } },
    { refetchInterval: 500, retry: false },
  );
  const work = asked.data;
  if (!work?.open) return null;
  return (
    <div className="acts" role="status" aria-label="Reading the recording">
      <Progress percent={Math.round(100 * work.share)} status="active" />
      <Button
        size="small"
        onClick={() => void api.DELETE("/api/work/{work_id}", { params: { path: { work_id: work.id } } })}
      >
        Stop reading
      </Button>
    </div>
  );
}

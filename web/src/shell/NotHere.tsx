// An address that leads nowhere.
import { GoTo } from "../parts/GoTo";
import { Empty } from "../parts/said";

export function NotHere() {
  return (
    <main className="board">
      <Empty
        title="There is nothing at this address"
        text="It may be mistyped, or from another version of the program."
      >
        <GoTo to="/" type="primary" size="large">
          To the job board
        </GoTo>
      </Empty>
    </main>
  );
}

// An address that leads nowhere.
import { GoTo } from "../parts/GoTo";
import { Said } from "../parts/said";

export function NotHere() {
  return (
    <main className="board">
      <Said
        sentence="There is nothing at this address."
        detail="It may be mistyped, or from another version of the program."
      />
      <GoTo to="/" type="primary" size="large">
        To the job board
      </GoTo>
    </main>
  );
}

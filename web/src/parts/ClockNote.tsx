// Says where this device's clock is wrong by more than a few minutes; times are told as the server has them.
import { clockBehind } from "../api/client";
import { Note } from "./said";

const WRONG_MIN = 5;

export function ClockNote() {
  const behind = Math.round(clockBehind() / 60_000);
  if (Math.abs(behind) <= WRONG_MIN) return null;
  const far = Math.abs(behind);
  const told = far < 120 ? `${far} min` : `${Math.round(far / 60)} h`;
  return (
    <Note kind="warn">
      This device&rsquo;s clock is {told} {behind > 0 ? "slow" : "fast"}; times are told as the server has them.
    </Note>
  );
}

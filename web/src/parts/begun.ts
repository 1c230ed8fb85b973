// What is typed over something that may become another meanwhile: kept as over what stood there when it was begun, so that
// what somebody else made of it is asked about, not written over.
import { useState } from "react";

// A row as it was when its dialog was opened.
export const useBegun = <T>(row: T): T => useState(row)[0];

// Text until its field is left, and what there was when typing began.
export function useTyped<T>(now: T) {
  const [begun, setBegun] = useState<{ text: string; over: T } | null>(null);
  return {
    begun,
    type: (text: string) => setBegun({ text, over: begun ? begun.over : now }),
    // What was kept is done with; what was typed since stays.
    end: (text?: string) => setBegun((then) => (text === undefined || then?.text === text ? null : then)),
  };
}

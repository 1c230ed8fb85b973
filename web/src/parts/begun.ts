// What is typed over something that may become another meanwhile: kept as over what stood there when it was begun, so that
// what somebody else made of it is asked about, not written over.
import { useState } from "react";

// A row as it was when its dialog was opened.
export const useBegun = <T>(row: T): T => useState(row)[0];

// Text until its field is left, and what there was when typing began.
export function useTyped<T>(now: T) {
  // begun over nothing: over whatever stands there now
  const [typed, setTyped] = useState<{ text: string; over?: { it: T } } | null>(null);
  return {
    begun: typed && { text: typed.text, over: typed.over ? typed.over.it : now },
    type: (text: string) => setTyped({ text, over: typed?.over ?? { it: now } }),
    // What was kept is done with; what was typed since stays, over what was kept.
    end: (text?: string) =>
      setTyped((then) => (text === undefined || !then || then.text === text ? null : { text: then.text })),
  };
}

// Drawing shared by the stages: hatches that tell layer roles apart in grey as well as in colour, and letters.

export const FILL: Record<string, string> = {
  D: "url(#h-D)",
  C: "url(#h-C)",
  B: "url(#h-B)",
  A: "url(#h-A)",
  S: "url(#h-S)",
  I: "url(#h-I)",
  "·": "url(#h-sub)",
};

export function Hatches() {
  return (
    <defs>
      <pattern id="h-sub" width="7" height="7" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
        <rect width="7" height="7" fill="#cfc7b8" />
        <line x1="0" y1="0" x2="0" y2="7" stroke="#2b211a" strokeWidth="1.6" />
      </pattern>
      <pattern id="h-D" width="14" height="10" patternUnits="userSpaceOnUse">
        <rect width="14" height="10" fill="#5f3e2f" />
        <path d="M1 2.5h7M8 7.5h7M-6 7.5h7" stroke="#e9d5bd" strokeWidth="1.6" />
      </pattern>
      <pattern id="h-C" width="12" height="12" patternUnits="userSpaceOnUse">
        <rect width="12" height="12" fill="#d9e8f2" />
        <circle cx="3" cy="3" r="2.2" fill="none" stroke="#335d7e" strokeWidth="1.2" />
        <circle cx="9" cy="9" r="2.2" fill="none" stroke="#335d7e" strokeWidth="1.2" />
      </pattern>
      <pattern id="h-B" width="8" height="8" patternUnits="userSpaceOnUse">
        <rect width="8" height="8" fill="#26262e" />
        <path d="M0 8L8 0M-2 2L2 -2M6 10L10 6" stroke="#4b4b58" strokeWidth="1.2" />
      </pattern>
      <pattern id="h-A" width="22" height="12" patternUnits="userSpaceOnUse">
        <rect width="22" height="12" fill="#f0dfa6" />
        <path d="M0 6q5.5 -6 11 0t11 0" fill="none" stroke="#8a6a12" strokeWidth="1.4" />
      </pattern>
      <pattern id="h-S" width="6" height="6" patternUnits="userSpaceOnUse">
        <rect width="6" height="6" fill="#e6e0ea" />
        <path d="M0 3h6" stroke="#7c4f80" strokeWidth="1.6" />
      </pattern>
      <pattern id="h-I" width="8" height="8" patternUnits="userSpaceOnUse">
        <rect width="8" height="8" fill="#dfe9dc" />
        <path d="M0 0l4 8l4 -8" fill="none" stroke="#55732a" strokeWidth="1.3" />
      </pattern>
    </defs>
  );
}

type LetterProps = { x: number; y: number; letter: string; r?: number; room?: readonly [number, number] };
// In a strip that is narrower than it and stands, it stands too.
export const Letter = ({ x, y, letter, r = 12, room }: LetterProps) => {
  const half = Math.max(r, letter.length * r * 0.44);
  const stands = room && room[0] < 2 * half && room[1] > room[0];
  return (
    <g transform={stands ? `rotate(-90 ${x} ${y})` : undefined}>
      <rect
        x={x - half}
        y={y - r}
        width={2 * half}
        height={2 * r}
        rx={r}
        fill="#fffdf6"
        stroke="#2b211a"
        strokeWidth={1.2}
      />
      <text x={x} y={y + r * 0.4} textAnchor="middle" fontSize={r * 1.15} fontWeight={700} style={{ fill: "#2b211a" }}>
        {letter}
      </text>
    </g>
  );
};

export const path = (points: readonly (readonly number[])[]): string =>
  `M${points.map((p) => `${p[0]} ${p[1]}`).join("L")}Z`;

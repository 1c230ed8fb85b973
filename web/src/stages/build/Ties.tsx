// Between two leaves: what ties them, asked on the cavity, with what each way gives.
import { memo } from "react";
import type { Schemas } from "../../api/client";
import { signed } from "../../parts/words";
import css from "./build.module.css";
import type { Change } from "./sectionDrawing";

type Props = { ties: readonly Schemas["TieAsked"][]; change: Change };

export const Ties = memo(function Ties({ ties, change }: Props) {
  return (
    <>
      {ties.map((t) => (
        <div key={t.layer_id} className={t.said ? css.ties : `${css.ties} ${css.unsaid}`}>
          <b>What ties the {t.leaf.charAt(0).toLowerCase() + t.leaf.slice(1)} to what is behind it?</b>
          <div className="chips" role="group" aria-label={`What ties ${t.leaf}`}>
            {t.ways.map((w) => (
              <button
                key={w.words}
                className="chip"
                aria-pressed={w.now}
                onClick={() => void change({ op: "set", at: ["layers", t.layer_id, "tie"], value: w.frame })}
              >
                {w.words}{" "}
                <span className="num">{w.through_db === null ? "" : `${signed(w.through_db)} dB through it`}</span>
              </button>
            ))}
          </div>
        </div>
      ))}
    </>
  );
});

// The head of a job. Wide: its name, the six stages, the goal rule. In one hand: one line with the goal's figures.
import { Modal } from "antd";
import { useState, type ReactNode } from "react";
import { Link } from "react-router";
import type { Schemas } from "../api/client";
import { GoalRule } from "../parts/GoalRule";
import { useScheme } from "../parts/scheme";
import { STAGES, titled, type StageName } from "../parts/stage";
import { num } from "../parts/words";

export type HeadProps = {
  page: Schemas["JobPage"] | undefined;
  open: StageName;
  kept: ReactNode;
  to: (stage: StageName) => string;
  undo: () => void;
  redo: () => void;
  find: () => void;
  words: () => void;
};

const where = (page: HeadProps["page"]): string =>
  [page?.document.job.customer, page?.overview.goal_rule?.where].filter(Boolean).join(" · ");

export function WideHead(props: HeadProps) {
  const { page, kept } = props;
  const name = page?.document.job.name ?? "…";
  const rule = page?.overview.goal_rule;
  return (
    <header>
      <nav className="top" aria-label="This job">
        <Brand />
        <span className="where" title={`${name} ${where(page)}`}>
          {name} <span className="small">{where(page)}</span>
        </span>
        {kept}
        <Acts {...props} />
      </nav>
      <StageLinks {...props} className="stages" />
      <div className="rule">{rule ? <GoalRule rule={rule} /> : null}</div>
    </header>
  );
}

const Brand = ({ small = false }: { small?: boolean }) => (
  <Link to="/" className="brand" aria-label="Sphagnum, the job board">
    <img src="/mark.svg" alt="" /> {small ? null : "Sphagnum"}
  </Link>
);

function Acts({ undo, redo, find, words }: Pick<HeadProps, "undo" | "redo" | "find" | "words">) {
  const { scheme, flip } = useScheme();
  return (
    <>
      <button className="key" onClick={undo} title="Undo my last edit (Ctrl Z)">
        undo
      </button>
      <button className="key" onClick={redo} title="Bring back what I undid (Ctrl Shift Z)">
        redo
      </button>
      <button className="key" onClick={find} title="Find (/)">
        / find
      </button>
      <button className="key" onClick={words} title="What the words mean (?)">
        ? words
      </button>
      <button className="key" onClick={flip}>
        {scheme === "dark" ? "light" : "dark"}
      </button>
    </>
  );
}

function StageLinks({ page, open, to, className, done }: HeadProps & { className: string; done?: () => void }) {
  return (
    <nav className={className} aria-label="Stages">
      {STAGES.map((s, i) => {
        const line = page?.overview.stages[i];
        return (
          <Link
            key={s}
            to={to(s)}
            onClick={done}
            className={`${s === open ? "on" : ""} ${line?.done ? "done" : ""}`}
            aria-current={s === open ? "page" : undefined}
          >
            {i + 1} <b>{titled(s)}</b>{" "}
            {line?.done ? (
              <i className="tick" aria-label="done">
                ✓
              </i>
            ) : null}
            <span title={line?.line}>{line?.line ?? "…"}</span>
          </Link>
        );
      })}
    </nav>
  );
}

// What the goal comes to in three figures: where it began, what is wanted, where it stands.
function figures(rule: Schemas["GoalRule"]): { name: string; value: number; kind: string }[] {
  const now = rule.measured ?? rule.predicted;
  const all = [
    { name: "found", value: rule.as_found, kind: "found" },
    { name: "goal", value: rule.target, kind: "target" },
    { name: rule.measured === null ? "planned" : "now", value: now, kind: rule.measured === null ? "planned" : "now" },
  ];
  return all.filter((f): f is typeof f & { value: number } => f.value !== null);
}

export function NarrowHead(props: HeadProps) {
  const { page, kept } = props;
  const [shown, setShown] = useState<"menu" | "rule" | null>(null);
  const rule = page?.overview.goal_rule;
  const close = () => setShown(null);
  const then = (act: () => void) => () => {
    close();
    act();
  };
  return (
    <header className="one-line">
      <nav className="top narrow" aria-label="This job">
        <Brand small />
        {rule ? (
          <button
            className="goal-figures"
            aria-expanded={shown === "rule"}
            onClick={() => setShown(shown === "rule" ? null : "rule")}
          >
            {figures(rule).map((f) => (
              <span key={f.name} className={f.kind}>
                <i>{f.name}</i> {num(f.value)}
              </span>
            ))}
            <small>{rule.unit}</small>
          </button>
        ) : (
          <span className="where">{page?.document.job.name ?? "…"}</span>
        )}
        {kept}
        <button className="key menu" aria-label="Menu" onClick={() => setShown("menu")}>
          ☰
        </button>
      </nav>
      {shown === "rule" && rule ? (
        <div className="rule">
          <GoalRule rule={rule} />
        </div>
      ) : null}
      <Modal open={shown === "menu"} onCancel={close} footer={null} title={page?.document.job.name}>
        <p className="small">{where(page)}</p>
        <div className="acts menu-acts">
          <Acts undo={then(props.undo)} redo={then(props.redo)} find={then(props.find)} words={then(props.words)} />
        </div>
      </Modal>
    </header>
  );
}

// The bar under the thumb: which stage, and what is done in it.
export function ThumbBar({ slot, ...props }: HeadProps & { slot: (element: HTMLElement | null) => void }) {
  const [shown, setShown] = useState(false);
  const close = () => setShown(false);
  return (
    <footer className="thumb-bar">
      <button
        className="stage-button"
        aria-label={`Stage ${STAGES.indexOf(props.open) + 1} ${titled(props.open)}: choose another`}
        onClick={() => setShown(true)}
      >
        {STAGES.indexOf(props.open) + 1} <b>{titled(props.open)}</b> <i aria-hidden>▴</i>
      </button>
      <div className="thumb" ref={slot} />
      <Modal open={shown} onCancel={close} footer={null} title="Stages">
        <StageLinks {...props} className="stages tall" done={close} />
      </Modal>
    </footer>
  );
}

// A small dictionary: the words of the trade that stand in the program, each in plain ones.
import { Input, Modal } from "antd";
import { useState } from "react";

const WORDS: readonly [string, string][] = [
  ["absorber", "Something open, such as wool or felt, that takes energy out of sound in a space. It does not block."],
  ["absorption area", "How much a room or cabin swallows, as if by so many square metres of open window."],
  ["as found", "How it was before anybody touched it. Everything later is held against it."],
  ["background", "What is heard with the source switched off. It is taken off what was read."],
  ["barrier", "Something heavy and closed that keeps sound from passing."],
  ["condition", "What the source is doing while it is read: idling, 80 km/h, compressor on."],
  ["coverage", "The share of a panel that is covered."],
  ["damping", "A sheet or paste on a panel that takes the ring out of it."],
  ["dB(A)", "The level as a meter shows it, low notes counted less, much as an ear does."],
  ["decoupler", "A soft layer that parts two things, so that one does not shake the other."],
  ["drum note", "The lowest note at which a panel rings when it is knocked on."],
  ["isolator", "Rubber or a spring that carries a load without passing its shaking on."],
  ["leak", "Any opening sound passes through. A small one undoes a good wall."],
  ["loss factor", "How quickly a panel stops ringing: 0.001 rings like a bell, 0.1 hardly at all."],
  ["octave", "A step in pitch from a note to twice its frequency; a third is a third of that step."],
  ["R", "How much of the sound that meets a wall it keeps out, dB. More is better."],
  ["round", "One set of readings at all places, in one state of the work: as found, stripped, finished."],
  ["Rw", "R of a wall over all notes, as one number."],
  [
    "shaken",
    "What comes because a panel is shaken by what it is fixed to, not because sound meets it. Also: structure-borne.",
  ],
  ["through it", "How much less comes through that one panel. At the ear it is less, since other ways remain."],
  ["way in (path)", "One way by which noise reaches the listener: a panel, a leak, a duct, what is shaken."],
  ["± with a level", "In 95 of 100 such cases the truth lies between these two."],
];

export function Words({ close }: { close: () => void }) {
  const [text, setText] = useState("");
  const wanted = text.trim().toLowerCase();
  const found = WORDS.filter(([word, plain]) => `${word} ${plain}`.toLowerCase().includes(wanted));
  return (
    <Modal open onCancel={close} footer={null} title="What the words mean">
      <div className="form">
        <Input
          autoFocus
          value={text}
          placeholder="a word"
          aria-label="Look up a word"
          onChange={(e) => setText(e.target.value)}
        />
        <dl className="words" tabIndex={0} aria-label="Words and what they mean">
          {found.map(([word, plain]) => (
            <div key={word}>
              <dt>{word}</dt>
              <dd>{plain}</dd>
            </div>
          ))}
        </dl>
        {found.length ? null : <p className="small">Not in here.</p>}
      </div>
    </Modal>
  );
}

// The working of figures: formula, inputs, source, accuracy.
import { Button, Drawer } from "antd";
import { useState } from "react";
import type { Schemas } from "../api/client";

export function Working({ items }: { items: readonly Schemas["Working"][] | undefined }) {
  const [open, setOpen] = useState(false);
  if (!items?.length) return null;
  return (
    <>
      <Button type="text" onClick={() => setOpen(true)}>
        Show the working
      </Button>
      <Drawer title="The working" open={open} onClose={() => setOpen(false)} size={460}>
        <div className="form" tabIndex={0} role="group" aria-label="The working">
          {items.map((w) => (
            <section key={w.figure} className="rows">
              <h3>{w.figure}</h3>
              <p className="small">{w.formula}</p>
              {w.inputs.map((i) => (
                <div key={i.name}>
                  <span>{i.name}</span>
                  <span className="num">{i.value}</span>
                </div>
              ))}
              <div>
                <span>source</span>
                <span>{w.source}</span>
              </div>
              {w.valid ? (
                <div>
                  <span>valid</span>
                  <span>{w.valid}</span>
                </div>
              ) : null}
              <div>
                <span>accuracy</span>
                <span>{w.accuracy}</span>
              </div>
            </section>
          ))}
        </div>
      </Drawer>
    </>
  );
}

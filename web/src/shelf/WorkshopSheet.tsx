// The workshop itself: its name, what it reckons in, what it charges, how it buys and works, and its offcuts.
import { Button, Drawer, Input, Segmented, Select } from "antd";
import { useRef, useState } from "react";
import { query, upload, type Schemas } from "../api/client";
import { useShelf } from "../api/hooks";
import { useWorkshop } from "../api/workshop";
import { useAsking } from "../parts/asking";
import { Ask, Field } from "../parts/fields";
import { FileInput } from "../parts/FileInput";
import { useOnce } from "../parts/once";
import { Note, State } from "../parts/said";
import { lengthUnit, sentIn, useUnits } from "../parts/units";

const PHASES: Record<string, string> = {
  strip: "strip",
  clean: "clean",
  "dry-fit": "dry-fit",
  refit: "refit",
  "log fixings": "log fixings, a surface",
  "check function": "check function, a surface",
  "cure rattles": "a rattle",
  "seal a leak": "a leak",
  "read again": "read again",
  "a piece": "a piece laid",
  "a metre of seam": "a metre of seam",
  "a fixing": "a fixing, off or on",
  curved: "more an hour where it is curved",
  overhead: "more an hour overhead",
  "through an opening": "more an hour through an opening",
  around: "tidying and breaks, an hour",
};

const PER_AREA = new Set(["strip", "clean", "dry-fit", "refit"]);

export function WorkshopSheet({ close }: { close: () => void }) {
  const workshop = useWorkshop();
  const learned = query.useQuery("get", "/api/repeatability");
  const doc = workshop.doc;
  const shelf = useShelf();
  const named = (id: string) => shelf.data?.methods.find((m) => m.id === id)?.name ?? id;
  return (
    <Drawer open onClose={close} title="The workshop" size="large">
      <State query={workshop.asked}>
        {doc ? <Own own={doc.workshop} workshop={workshop} /> : null}
        {doc ? (
          <>
            <Terms own={doc.workshop} workshop={workshop} />
            <h2>Minutes here</h2>
            <p className="small">Left empty, the shipped figure counts.</p>
            <div className="two">
              {Object.entries(PHASES).map(([phase, label]) => {
                const row = doc.house_minutes.find((m) => m.phase === phase);
                return (
                  <Field
                    key={phase}
                    label={label}
                    unit={PER_AREA.has(phase) ? "min/m²" : "min"}
                    value={row ? String(row.minutes) : ""}
                    placeholder="as shipped"
                    save={(text) =>
                      text.trim() || !row
                        ? workshop.put("house_minutes", "phase", phase, { minutes: text })
                        : workshop.remove("house_minutes", row)
                    }
                  />
                );
              })}
            </div>
            <h2>How far single readings scatter</h2>
            <div className="rows">
              {learned.data?.methods.map((m) => (
                <div key={m.method}>
                  <span>
                    {named(m.method)}{" "}
                    <span className="small">{m.own_db == null ? "" : `your own repeats: ${m.own_db} dB`}</span>
                  </span>
                  <span>
                    <Field
                      label="dB"
                      value={String(m.table_db)}
                      save={(text) =>
                        workshop.put("methods", "method", m.method, { name: named(m.method), repeatability_db: text })
                      }
                    />
                  </span>
                </div>
              ))}
            </div>
            <h2>Templates</h2>
            {doc.outlines?.length ? null : <p className="small">None kept: a surface is kept in Cut.</p>}
            {(doc.outlines ?? []).map((o) => (
              <Note key={o.id} kind="info">
                <b>{o.label}</b> {o.what}
                {o.measured_on ? `, measured on ${o.measured_on}` : ""}{" "}
                <Button size="small" onClick={() => void workshop.remove("outlines", o).catch(workshop.say)}>
                  remove
                </Button>
              </Note>
            ))}
            <h2>Offcuts</h2>
            {doc.offcuts.length === 0 ? <p className="small">None kept.</p> : null}
            <NewOffcut workshop={workshop} />
            {doc.offcuts.map((o) => (
              <Note key={o.id} kind="info">
                {o.code ? <b>{o.code} </b> : null}
                {shelf.data?.materials.find((m) => m.material.id === o.material)?.material.name ?? o.material}{" "}
                {o.thickness_mm} mm: {o.width_mm} × {o.length_mm} mm{o.place ? `, ${o.place}` : ""}{" "}
                <Button size="small" onClick={() => void workshop.remove("offcuts", o).catch(workshop.say)}>
                  Used
                </Button>
              </Note>
            ))}
          </>
        ) : null}
      </State>
    </Drawer>
  );
}

type Workshop = ReturnType<typeof useWorkshop>;

const SIZES = [
  ["thickness_mm", "Thickness"],
  ["width_mm", "Width"],
  ["length_mm", "Length"],
] as const;

function NewOffcut({ workshop }: { workshop: Workshop }) {
  const shelf = useShelf();
  const units = useUnits();
  const [values, setValues] = useState<Record<string, string>>({ material: "butyl-foil" });
  const [wrong, setWrong] = useState("");
  const set = (key: string, value: string) => setValues({ ...values, [key]: value });
  const [, once] = useOnce();
  const keep = () => once(add);
  const add = async () => {
    try {
      const sizes = Object.fromEntries(SIZES.map(([key]) => [key, sentIn(values[key] ?? "", "length", units)]));
      await workshop.add("offcuts", { material: values["material"], place: values["place"] ?? "", ...sizes });
      setValues({ material: values["material"] ?? "" });
      setWrong("");
    } catch (error) {
      setWrong(error instanceof Error ? error.message : "Not kept.");
    }
  };
  return (
    <div className="form">
      <div className="two">
        <Ask label="An offcut of">
          <Select
            value={values["material"] ?? ""}
            aria-label="An offcut of"
            showSearch
            optionFilterProp="label"
            options={(shelf.data?.materials ?? [])
              .filter((m) => m.lies)
              .map((m) => ({ value: m.material.id, label: m.material.name }))}
            onChange={(v) => set("material", v)}
          />
        </Ask>
        {SIZES.map(([key, label]) => (
          <Ask key={key} label={label}>
            <Input value={values[key] ?? ""} suffix={lengthUnit(units)} onChange={(e) => set(key, e.target.value)} />
          </Ask>
        ))}
        <Ask label="Where it lies">
          <Input value={values["place"] ?? ""} onChange={(e) => set("place", e.target.value)} />
        </Ask>
      </div>
      {wrong ? <Note kind="danger">{wrong}</Note> : null}
      <Button onClick={() => void keep()}>Keep the offcut</Button>
    </div>
  );
}

const FIGURES: readonly (readonly [keyof Schemas["Workshop"], string, string?])[] = [
  ["currency", "Currency"],
  ["labour_per_hour", "Labour", "an hour"],
  ["margin_percent", "Put on material and labour", "%"],
  ["tax_percent", "Tax", "%"],
  ["spare_percent", "Spare of sheets", "%"],
  ["kind_money", "Each further kind of material counts", "money"],
  ["pace", "Pace: minutes times"],
  ["day_hours", "A day of work", "h"],
  ["valid_days", "An offer holds", "days"],
  ["cut_gap_mm", "Between pieces", "mm"],
  ["least_offcut_mm", "Offcuts kept from", "mm"],
  ["seam_price_m", "A metre of seam costs", "money"],
  ["largest_mm", "Longest piece handled", "mm"],
  ["largest_kg", "Heaviest piece handled", "kg"],
];

const BLOCKS: Record<Schemas["Term"]["block"], string> = {
  excluded: "Not in it",
  provided: "The customer provides",
  deposit: "Deposit and stages",
  missed: "If the promised range is missed",
  withdrawal: "Withdrawal",
  licensed: "Done by somebody licensed",
  rated: "Walls with a rating",
  limits: "Limits of makers",
};

// What stands in every offer, in the workshop's own words.
function Terms({ own, workshop }: { own: Schemas["Workshop"]; workshop: Workshop }) {
  const terms = own.terms ?? [];
  const put = (block: Schemas["Term"]["block"], text: string) => {
    return workshop.change("workshops", own, ({ workshop: { terms: now = [] } }) => {
      const others = now.filter((t) => t.block !== block || t.kind !== "");
      const value = text.trim() ? [...others, { kind: "" as const, block, text }] : others;
      return [{ op: "set", at: ["terms"], value }];
    });
  };
  return (
    <>
      <h2>Terms of every offer</h2>
      {Object.entries(BLOCKS).map(([block, label]) => {
        const of = block as Schemas["Term"]["block"];
        const text = terms.find((t) => t.block === of && (t.kind ?? "") === "")?.text ?? "";
        return <Field key={block} label={label} area value={text} save={(v) => put(of, v)} />;
      })}
    </>
  );
}

// The workshop's mark on its papers: PNG, JPEG or WebP of at most 2 MB.
function Mark({ own, workshop }: { own: Schemas["Workshop"]; workshop: Workshop }) {
  const picker = useRef<HTMLInputElement>(null);
  const take = async (file: File | undefined) => {
    if (!file) return;
    await upload("/api/workshop/mark", { file })
      .then(() => workshop.asked.refetch())
      .catch(workshop.say);
  };
  return (
    <div className="field">
      <span>Mark, on papers</span>
      {own.mark ? <span className="small">one is kept; another takes its place</span> : null}
      <Button onClick={() => picker.current?.click()}>{own.mark ? "Another picture …" : "A picture …"}</Button>
      <FileInput picker={picker} label="Mark" accept=".png,.jpg,.jpeg,.webp" take={take} />
    </div>
  );
}

function Own({ own, workshop }: { own: Schemas["Workshop"]; workshop: Workshop }) {
  const put = (key: string, value: unknown) => workshop.change("workshops", own, [{ op: "set", at: [key], value }]);
  const asking = useAsking();
  // more than all of it again is put on by a slip of the hand more often than by will
  const meant = (key: string, value: string) => {
    if (key !== "margin_percent" || Number(value.replace(",", ".")) <= 100) return Promise.resolve(true);
    const title = `Put ${value} % on material and labour?`;
    const content = `An offer then asks more than twice what the work costs.`;
    return asking({ title, content, yes: `Put ${value} % on`, no: "Leave it as it was" });
  };
  const text = (value: unknown) => (value == null ? "" : String(value as string | number));
  return (
    <div className="form">
      <Field label="Name" value={own.name ?? ""} placeholder="the workshop’s name" save={(v) => put("name", v)} />
      <Field label="Address, on papers" area value={own.address ?? ""} save={(v) => put("address", v)} />
      <Mark own={own} workshop={workshop} />
      <label className="field">
        <span>Lengths and weights</span>
        <Segmented
          block
          value={own.units ?? "metric"}
          onChange={(v) => void put("units", v).catch(workshop.say)}
          options={[
            { value: "metric", label: "mm, m, kg" },
            { value: "imperial", label: "inches, feet, pounds" },
          ]}
        />
      </label>
      <div className="two">
        {FIGURES.map(([key, label, unit]) => (
          <Field
            key={key}
            label={label}
            unit={unit === "money" ? own.currency : unit}
            value={text(own[key])}
            placeholder="unknown"
            save={async (v) => {
              if (await meant(key, v)) await put(key, v);
            }}
          />
        ))}
        <label className="field">
          <span>A price in an offer</span>
          <Segmented
            block
            value={own.offer_shows ?? "one sum"}
            onChange={(v) => void put("offer_shows", v).catch(workshop.say)}
            options={["one sum", "material and labour"]}
          />
        </label>
        <label className="field">
          <span>Sheets are cut</span>
          <Segmented
            block
            value={own.knife_and_rule ?? false}
            onChange={(v) => void put("knife_and_rule", v).catch(workshop.say)}
            options={[
              { value: false, label: "any way" },
              { value: true, label: "knife and rule, right across" },
            ]}
          />
        </label>
      </div>
    </div>
  );
}

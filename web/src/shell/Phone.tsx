// A phone gets in: the codes it reads, the devices that are in, and signing this one out.
import { App, Button, Modal, Segmented } from "antd";
import { useCallback, useEffect, useState } from "react";
import { api, ask, query, type Schemas } from "../api/client";
import { useEdits } from "../api/edits";
import { forgetAll } from "../api/store";
import { Note } from "../parts/said";

const [STAYS_MS, FRESH_MS] = [30_000, 9 * 60_000];
const day = (s: number): string => new Date(s * 1000).toLocaleDateString([], { day: "numeric", month: "short" });

export function Phone({ close }: { close: () => void }) {
  const [way, setWay] = useState<Schemas["PhoneWay"] | null>(null);
  const [trusting, setTrusting] = useState<boolean | null>(null);
  const [at, setAt] = useState(0);
  const [error, setError] = useState("");
  const show = useCallback(
    () => ask(api.POST("/api/phone")).then(setWay, (e: unknown) => setError(e instanceof Error ? e.message : "")),
    [],
  );
  useEffect(() => {
    void show();
    const anew = setInterval(() => void show(), FRESH_MS);
    const stay = setInterval(() => void api.POST("/api/phone/again").catch(() => undefined), STAYS_MS);
    return () => {
      clearInterval(anew);
      clearInterval(stay);
      void api.DELETE("/api/phone").catch(() => undefined);
    };
  }, [show]);
  const first = trusting ?? Boolean(way?.trust);
  const door = first && way?.trust ? way.trust : way?.ways?.[at];
  return (
    <Modal open title="Open on a phone" onCancel={close} footer={null} width={560}>
      {error ? <Note kind="danger">{error}</Note> : null}
      {way?.sentence ? <Note kind="warn">{way.sentence}</Note> : null}
      {way?.trust ? (
        <Segmented
          size="large"
          block
          value={first ? "trust" : "in"}
          onChange={(v) => setTrusting(v === "trust")}
          options={[
            { value: "trust", label: "1 Trust this workshop" },
            { value: "in", label: "2 Come in" },
          ]}
        />
      ) : null}
      {door ? (
        <div className="doorway">
          <img src={door.code} alt={`Code that opens ${door.address}`} width={260} height={260} />
          <p>
            <b>{door.address}</b>
          </p>
          {first ? (
            <>
              <p>Once for each phone: fetch the certificate, trust it, and compare what the phone shows as SHA-256:</p>
              <p className="digest">{way?.sha256}</p>
            </>
          ) : (
            <>
              <p>
                Read the code within ten minutes and press &ldquo;Come in&rdquo;. It lets one phone in, for thirty days.
              </p>
              {(way?.ways?.length ?? 0) > 1 ? (
                <p className="small">
                  It does not open?{" "}
                  <button className="key" onClick={() => setAt((at + 1) % (way?.ways?.length ?? 1))}>
                    Another address
                  </button>
                </p>
              ) : null}
            </>
          )}
        </div>
      ) : null}
      <Devices />
    </Modal>
  );
}

function Devices() {
  const found = query.useQuery("get", "/api/devices", {});
  const queue = useEdits();
  const { modal } = App.useApp();
  const end = async (id: string) => {
    await api.DELETE("/api/devices/{device_id}", { params: { path: { device_id: id } } }).catch(() => undefined);
    await found.refetch();
  };
  // what is kept in this browser goes with it
  const signOut = async () => {
    await fetch("/sign-out", { method: "POST", headers: { "X-Author": "sign-out" } }).catch(() => undefined);
    await forgetAll();
    await caches.delete("pictures").catch(() => undefined);
    location.assign("/sign-in");
  };
  const asked = () => {
    const { pending, asides } = queue.status();
    if (!pending && !asides) return void signOut();
    modal.confirm({
      title: `${pending + asides} changes of this device are not on the server`,
      content: "Signed out, they are gone. Keep them as a file first, or wait until they are sent.",
      okText: "Sign out all the same",
      okButtonProps: { danger: true },
      onOk: signOut,
    });
  };
  const devices = found.data?.devices ?? [];
  if (!devices.length) return null;
  return (
    <>
      <h3>Signed in</h3>
      <ul className="devices">
        {devices.map((d) => (
          <li key={d.id}>
            <span>
              <b>{d.name}</b>
              {d.id === found.data?.this ? " (this one)" : ""}
              <span className="small">
                {" "}
                since {day(d.since)}, last seen {day(d.seen)}
              </span>
            </span>
            {d.id === found.data?.this ? (
              <Button onClick={asked}>Sign out</Button>
            ) : (
              <Button danger onClick={() => void end(d.id)}>
                End it
              </Button>
            )}
          </li>
        ))}
      </ul>
    </>
  );
}

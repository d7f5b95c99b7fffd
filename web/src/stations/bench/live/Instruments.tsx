import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import { api, Failure, take, type FoundInstrument, type Instruments, type TriedAsk } from "../../../api/client";
import { useDesign } from "../../../design/store";
import { InstrumentForm } from "./InstrumentForm";

/** How often an instrument is asked, s, unless the builder says otherwise. */
const EVERY_S = 0.1;

const SPEEDS = [1, 10, 60];

type Own = Instruments["own"][number];

interface Props {
  instruments: Instruments;
  isRead: (name: string) => boolean;
  onRead: (name: string) => void;
}

/** An instrument says its maker, what it is, its number and its version. */
const modelOf = (name: string) => (name.split(",")[1] ?? name).trim();

/** The builder's instruments: found, named, asked once to see what they say. */
export function InstrumentList({ instruments, isRead, onRead }: Props) {
  const { design } = useDesign();
  const queries = useQueryClient();
  const [found, setFound] = useState<FoundInstrument[] | null>(null);
  const [address, setAddress] = useState("");
  const [speed, setSpeed] = useState(1);
  const [fault, setFault] = useState("");
  const [busy, setBusy] = useState("");
  const [problem, setProblem] = useState("");
  const [tried, setTried] = useState<{ name: string; rows: TriedAsk[] } | null>(null);
  const [edited, setEdited] = useState<Own | null>(null);
  const label = new Map(instruments.kinds.map((k) => [k.key, k.label]));
  /** As they are by now: several may be taken in at once. */
  const own = () => queries.getQueryData<Instruments>(["instruments"])?.own ?? instruments.own;
  const put = (next: Instruments) => queries.setQueryData(["instruments"], next);

  const doing = async (what: string, act: () => Promise<void>) => {
    setBusy(what);
    setProblem("");
    try {
      await act();
    } catch (failed) {
      setProblem(Failure.of(failed).reason);
    } finally {
      setBusy("");
    }
  };
  const takeIn = async (one: FoundInstrument) => {
    const names = new Set(
      own()
        .filter((i) => i.address !== one.address)
        .map((i) => i.name),
    );
    const bare = modelOf(one.name) || one.address;
    let name = bare.slice(0, 56);
    for (let n = 2; names.has(name); n += 1) name = `${bare.slice(0, 52)} ${n}`;
    const known = own().find((i) => i.address === one.address);
    put(
      await take(
        api.POST("/api/bench/instruments", {
          body: { name: known?.name ?? name, address: one.address, kind: one.kind, every_s: EVERY_S },
        }),
      ),
    );
  };
  const look = (addresses: string[]) =>
    doing("look", async () => {
      const { found: all } = await take(api.POST("/api/bench/find", { body: { addresses } }));
      setFound(all);
      for (const one of all) if (one.kind && !own().some((i) => i.address === one.address)) await takeIn(one);
      setAddress((typed) => (addresses.includes(typed.trim()) ? "" : typed));
    });
  const standIns = () =>
    doing("stand-ins", async () => {
      const body = { design_id: design.id, seed: Math.floor(Math.random() * 1e6), speed, fault };
      const { stand_ins } = await take(api.POST("/api/bench/stand-ins", { body }));
      const { found: all } = await take(
        api.POST("/api/bench/find", { body: { addresses: stand_ins.map((s) => s.address) } }),
      );
      setFound(all);
      for (const one of all) if (one.kind) await takeIn(one);
    });
  const takeAway = (one: Own) =>
    doing("away", async () => {
      const at = { params: { path: { name: one.name } } };
      put(await take(api.DELETE("/api/bench/instruments/{name}", at)));
      setFound((all) => all?.filter((f) => f.address !== one.address) ?? null);
    });
  const tryOut = (one: Own) =>
    doing(one.name, async () => {
      const body = { design_id: design.id, address: one.address, kind: one.kind, asks: one.asks };
      const { tried: rows } = await take(api.POST("/api/bench/try", { body }));
      setTried({ name: one.name, rows });
    });
  const unknown = (found ?? []).filter((f) => !instruments.own.some((i) => i.address === f.address));
  return (
    <section>
      <h2 className="mb-1">The instruments</h2>
      {instruments.own.length === 0 && (
        <p>
          Whatever answers text can be read: over the network, or a serial port. Without any, run the plan by hand and
          paste a logger’s table under “readings”.
        </p>
      )}
      <ul className="instruments">
        {instruments.own.map((one) => (
          <li key={one.name}>
            <label>
              <input type="checkbox" checked={isRead(one.name)} onChange={() => onRead(one.name)} />{" "}
              <strong>{one.name}</strong>
            </label>
            <span className="faint" title={label.get(one.kind) ?? "in its own words"}>
              {one.address}
            </span>
            <span className="instrument-acts">
              <Button variant="bare" size="sm" disabled={busy !== ""} onClick={() => void tryOut(one)}>
                {busy === one.name ? "asking…" : "ask once"}
              </Button>
              <Button variant="bare" size="sm" onClick={() => setEdited(one)}>
                words…
              </Button>
              <Button variant="bare" size="sm" aria-label={`Take ${one.name} away`} onClick={() => void takeAway(one)}>
                ✕
              </Button>
            </span>
            {tried?.name === one.name && (
              <ul className="tried">
                {tried.rows.length === 0 && <li className="faint">It is only told what to do.</li>}
                {tried.rows.map((row) => (
                  <li key={row.text}>
                    <code>{row.text}</code> {row.problem ? <span className="off">{row.problem}</span> : row.answer}
                  </li>
                ))}
              </ul>
            )}
          </li>
        ))}
        {unknown.map((one) => (
          <li key={one.address}>
            <span>{one.name || "nameless"}</span>
            <span className="faint">{one.address}: of no kind that is known</span>
            <Button
              variant="bare"
              size="sm"
              onClick={() =>
                setEdited({
                  name: modelOf(one.name) || one.address,
                  address: one.address,
                  kind: "",
                  asks: [],
                  acts: {},
                  every_s: EVERY_S,
                })
              }
            >
              say what to ask it…
            </Button>
          </li>
        ))}
      </ul>
      {found?.length === 0 && <p role="status">Nothing answers: is it switched on, and its cable in?</p>}
      <div className="instrument-look">
        <Button variant="quiet" size="sm" disabled={busy !== ""} onClick={() => void look([])}>
          {busy === "look" ? "Looking…" : "Look for instruments"}
        </Button>
        <Form.Control
          size="sm"
          aria-label="Address of an instrument"
          placeholder="192.168.1.20:5025 or /dev/ttyUSB0"
          value={address}
          onChange={(event) => setAddress(event.target.value)}
          onKeyDown={(event) => event.key === "Enter" && address.trim() && void look([address.trim()])}
        />
      </div>
      <p className="mb-1">
        <Button variant="bare" size="sm" className="ps-0" disabled={busy !== ""} onClick={() => void standIns()}>
          {busy === "stand-ins" ? "starting…" : "no instruments at hand: start stand-ins"}
        </Button>
      </p>
      <p className="faint stand-ins">
        A simulated bench, with true figures of its own:{" "}
        <select
          className="form-select form-select-sm"
          aria-label="How the simulated station is"
          value={fault}
          onChange={(event) => setFault(event.target.value)}
        >
          <option value="">sound</option>
          <option value="any">with a hidden fault</option>
        </select>{" "}
        <select
          className="form-select form-select-sm"
          aria-label="How fast its time goes"
          value={speed}
          onChange={(event) => setSpeed(Number(event.target.value))}
        >
          {SPEEDS.map((s) => (
            <option key={s} value={s}>
              {s === 1 ? "in real time" : `${s} times faster`}
            </option>
          ))}
        </select>
      </p>
      {problem && (
        <p className="problem" role="alert">
          {problem}
        </p>
      )}
      {edited && (
        <InstrumentForm
          one={edited}
          kinds={instruments.kinds}
          onHide={() => setEdited(null)}
          onPut={async (body) => {
            put(await take(api.POST("/api/bench/instruments", { body })));
            setEdited(null);
          }}
        />
      )}
    </section>
  );
}

import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import Button from "react-bootstrap/Button";
import Dropdown from "react-bootstrap/Dropdown";
import { Link, useNavigate } from "react-router";
import { api, take, type ErrorOut, type ShelfItem } from "../../api/client";
import { Logo } from "../Logo";
import { chooseTheme, storedTheme } from "../theme";
import { Mark } from "../../figures/Mark";
import { Sketch } from "./Sketch";

/** The shelf of builds: a card each, with its drawing, figures and verdict. */
export function Shelf() {
  const navigate = useNavigate();
  const queries = useQueryClient();
  const shelf = useQuery({ queryKey: ["shelf"], queryFn: () => take(api.GET("/api/designs")) });
  const [deleted, setDeleted] = useState<ShelfItem | null>(null);
  const [problem, setProblem] = useState("");
  const [theme, setTheme] = useState(storedTheme);
  const file = useRef<HTMLInputElement>(null);
  useEffect(() => {
    document.title = "Keg Cart";
  }, []);
  const again = () => queries.invalidateQueries({ queryKey: ["shelf"] });
  const failed = (error: Error) => setProblem(error.message);
  const begin = useMutation({
    mutationFn: () => take(api.POST("/api/designs", { body: { name: "New build" } })),
    onSuccess: (design) => void navigate(`/build/${design.id}/brief`),
    onError: failed,
  });
  const copy = useMutation({
    mutationFn: (id: string) =>
      take(api.POST("/api/designs/{design_id}/copy", { params: { path: { design_id: id } } })),
    onSuccess: again,
    onError: failed,
  });
  const restore = useMutation({
    mutationFn: (id: string) =>
      take(api.POST("/api/designs/{design_id}/restore", { params: { path: { design_id: id } } })),
    onSuccess: () => {
      setDeleted(null);
      return again();
    },
    onError: failed,
  });
  const remove = async (item: ShelfItem) => {
    const { error } = await api.DELETE("/api/designs/{design_id}", { params: { path: { design_id: item.id } } });
    if (error) setProblem(`Not taken off: ${(error as ErrorOut).message}`);
    else setDeleted(item);
    await again();
  };
  const open = async (chosen: File) => {
    setProblem("");
    const response = await fetch("/api/designs/import", {
      method: "POST",
      headers: { "Content-Type": "application/json" },
      body: chosen,
    });
    const answer = (await response.json()) as { id: string } & ErrorOut;
    if (response.ok) {
      await again();
      void navigate(`/build/${answer.id}/loads`);
      return;
    }
    const reasons = (answer.problems ?? []).map((p) => `${p.pointer || "file"}: ${p.message}`);
    setProblem(`${chosen.name} was not imported. ${reasons.slice(0, 4).join("; ") || answer.message}`);
  };
  const other = theme === "dark" ? "light" : "dark";
  return (
    <main className="shelf-page">
      <header className="shelf-head">
        <Logo className="brand" />
        <h1>Keg Cart</h1>
        <div className="tools">
          <Button onClick={() => begin.mutate()}>New build</Button>
          <Button variant="quiet" onClick={() => file.current?.click()}>
            Import a file
          </Button>
          <Button
            variant="bare"
            onClick={() => {
              chooseTheme(other);
              setTheme(other);
            }}
          >
            {other} theme
          </Button>
        </div>
        <input
          ref={file}
          type="file"
          accept=".json,application/json"
          className="visually-hidden"
          aria-label="Design file to import"
          tabIndex={-1}
          onChange={(event) => {
            const chosen = event.target.files?.[0];
            event.target.value = "";
            if (chosen) void open(chosen).catch(() => setProblem("The server does not answer; nothing was imported."));
          }}
        />
      </header>
      <p className="shelf-lead">
        A portable power station, from the list of loads to the load test: sized, drawn and checked, every figure with
        its working.
      </p>
      {problem && (
        <p className="problem mb-3" role="alert" style={{ maxWidth: "none" }}>
          {problem}
        </p>
      )}
      {shelf.error && (
        <p role="alert">
          The shelf cannot be read: {shelf.error.message}{" "}
          <Button size="sm" variant="quiet" onClick={() => void shelf.refetch()}>
            Try again
          </Button>
        </p>
      )}
      {shelf.data?.length === 0 && (
        <div className="empty-state">
          <h2>The shelf is empty</h2>
          <p>
            A build holds what is to run, the pack, the wiring and its test. Begin a new one, or import a design file.
          </p>
          <Button onClick={() => begin.mutate()}>New build</Button>
        </div>
      )}
      <div className="shelf">
        {shelf.data?.map((item) => (
          <Card key={item.id} item={item} onCopy={() => copy.mutate(item.id)} onDelete={() => void remove(item)} />
        ))}
      </div>
      {deleted && (
        <div className="notice" role="status">
          <span>{deleted.name} was taken off the shelf.</span>
          <Button variant="bare" size="sm" onClick={() => restore.mutate(deleted.id)}>
            undo
          </Button>
          <Button variant="bare" size="sm" aria-label="dismiss" onClick={() => setDeleted(null)}>
            ✕
          </Button>
        </div>
      )}
    </main>
  );
}

function Card({ item, onCopy, onDelete }: { item: ShelfItem; onCopy: () => void; onDelete: () => void }) {
  const { verdict } = item;
  const figure = (path: string) => item.figures[path]?.text ?? "";
  const worst = verdict.stop ? "stop" : verdict.mend ? "mend" : "holds";
  const words = {
    stop: `${verdict.stop} stop${verdict.stop > 1 ? "s" : ""}${verdict.mend ? `, ${verdict.mend} mend${verdict.mend > 1 ? "s" : ""}` : ""}`,
    mend: `${verdict.mend} mend${verdict.mend > 1 ? "s" : ""}`,
    holds: verdict.note ? `holds, ${verdict.note} note${verdict.note > 1 ? "s" : ""}` : "holds",
  };
  return (
    <article className="build-card">
      <div className="plate" />
      <div className="squared sketch">
        <Sketch drawing={item.diagram} />
      </div>
      <Dropdown className="menu" align="end">
        <Dropdown.Toggle variant="quiet" size="sm" aria-label={`What can be done with ${item.name}`}>
          …
        </Dropdown.Toggle>
        <Dropdown.Menu>
          <Dropdown.Item onClick={onCopy}>Copy</Dropdown.Item>
          <Dropdown.Item href={`/api/designs/${item.id}/file`} download>
            Export the design file
          </Dropdown.Item>
          <Dropdown.Item onClick={onDelete}>Take off the shelf</Dropdown.Item>
        </Dropdown.Menu>
      </Dropdown>
      <div className="body">
        <Link className="name" to={`/build/${item.id}/loads`}>
          {item.name}
        </Link>
        {item.purpose && <div className="faint">{item.purpose}</div>}
        <dl className="figures mb-0">
          <div>
            <dt>a day</dt>
            <dd>{figure("loads/energy_day")}</dd>
          </div>
          <div>
            <dt>usable</dt>
            <dd>{figure("power/available")}</dd>
          </div>
          <div>
            <dt>pack</dt>
            <dd>
              {figure("pack/v_nom")}, {figure("pack/capacity")}
            </dd>
          </div>
          <div>
            <dt>peak</dt>
            <dd>{figure("power/current")}</dd>
          </div>
        </dl>
        <div className="foot">
          <Mark kind={worst} hidden />
          <strong>{words[worst]}</strong>
          {item.demo && <span className="chip ms-auto">demo build</span>}
        </div>
      </div>
    </article>
  );
}

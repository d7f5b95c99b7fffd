import { useInfiniteQuery, useMutation, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import Button from "react-bootstrap/Button";
import { useNavigate } from "react-router";
import { askAnew } from "../../api/anew";
import { api, done, Failure, take, type ShelfItem } from "../../api/client";
import { Logo } from "../Logo";
import { chooseTheme, storedTheme } from "../theme";
import { useReference } from "../../figures/reference";
import { Card } from "./Card";

const PAGE = 24;
const ORDERS = { changed: "last changed", name: "by name", verdict: "worst first" } as const;
type Order = keyof typeof ORDERS;

/** The shelf of builds: each with its drawing, figures and what is next; the builder's own before the demo builds. */
export function Shelf() {
  const navigate = useNavigate();
  const queries = useQueryClient();
  const [search, setSearch] = useState("");
  const [order, setOrder] = useState<Order>("changed");
  const [off, setOff] = useState(false);
  const shelf = useInfiniteQuery({
    queryKey: ["shelf", search, order, off],
    queryFn: ({ pageParam }) =>
      take(api.GET("/api/designs", { params: { query: { search, order, off, offset: pageParam, limit: PAGE } } })),
    initialPageParam: 0,
    getNextPageParam: (last, pages) => {
      const shown = pages.reduce((sum, page) => sum + page.builds.length, 0);
      return shown < last.count ? shown : undefined;
    },
    placeholderData: (before) => before,
  });
  const [deleted, setDeleted] = useState<ShelfItem | null>(null);
  const [problem, setProblem] = useState("");
  const [theme, setTheme] = useState(storedTheme);
  const file = useRef<HTMLInputElement>(null);
  useEffect(() => {
    document.title = "Keg Cart";
  }, []);
  const again = () => askAnew(queries, "shelf");
  const failed = (error: Error) => setProblem(error.message);
  const begin = useMutation({
    mutationFn: (start: string) => take(api.POST("/api/designs", { body: { start } })),
    onSuccess: (design) => void navigate(`/build/${design.id}/loads`),
    onError: failed,
  });
  const copy = useMutation({
    mutationFn: (id: string) =>
      take(api.POST("/api/designs/{design_id}/copy", { params: { path: { design_id: id } } })),
    onSuccess: (design) => void navigate(`/build/${design.id}/loads`),
    onError: failed,
  });
  const restore = useMutation({
    mutationFn: (id: string) =>
      done(api.POST("/api/designs/{design_id}/restore", { params: { path: { design_id: id } } })),
    onSuccess: () => {
      setDeleted(null);
      return again();
    },
    onError: failed,
  });
  const remove = useMutation({
    mutationFn: (item: ShelfItem) =>
      done(api.DELETE("/api/designs/{design_id}", { params: { path: { design_id: item.id } } })),
    onSuccess: (_, item) => {
      setDeleted(item);
      return again();
    },
    onError: failed,
  });
  const open = async (chosen: File) => {
    setProblem("");
    try {
      // Sent as it is written: only the server reads it, and says the line where it cannot.
      const made = await take(
        api.POST("/api/designs/import", {
          body: chosen as never,
          bodySerializer: (body) => body,
          headers: { "Content-Type": "application/octet-stream" },
        }),
      );
      await again();
      void navigate(`/build/${made.id}/loads`);
    } catch (error) {
      const { message, problems } = Failure.of(error);
      const reasons = (problems ?? []).map((p) => `${p.pointer || "file"}: ${p.message}`);
      setProblem(`${chosen.name} was not imported. ${reasons.slice(0, 4).join("; ") || message}`);
    }
  };
  const other = theme === "dark" ? "light" : "dark";
  const first = shelf.data?.pages[0];
  const builds = shelf.data?.pages.flatMap((page) => page.builds) ?? [];
  const left = (first?.count ?? 0) - builds.length;
  return (
    <main className="shelf-page">
      <header className="shelf-head">
        <Logo className="brand" />
        <h1>Keg Cart</h1>
        <div className="tools">
          <Button onClick={() => begin.mutate("")}>New build</Button>
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
          accept=".json,.zip,application/json,application/zip"
          className="visually-hidden"
          aria-label="Design file to import"
          tabIndex={-1}
          onChange={(event) => {
            const chosen = event.target.files?.[0];
            event.target.value = "";
            if (chosen) void open(chosen);
          }}
        />
      </header>
      <p className="shelf-lead">
        A portable power station, from the list of loads to the load test: sized, drawn and checked, every figure with
        its working.
      </p>
      <Starts onStart={(start) => begin.mutate(start)} />
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
      {first && (
        <div className="shelf-find" role="search">
          <input
            className="form-control form-control-sm"
            aria-label="Find a build by name or purpose"
            placeholder="find a build"
            value={search}
            maxLength={200}
            onChange={(event) => setSearch(event.target.value)}
          />
          <div className="tabs mb-0" role="group" aria-label="Order of the builds">
            {(Object.keys(ORDERS) as Order[]).map((key) => (
              <button
                key={key}
                type="button"
                className="tab tight"
                aria-pressed={order === key}
                onClick={() => setOrder(key)}
              >
                {ORDERS[key]}
              </button>
            ))}
          </div>
          {(first.off > 0 || off) && (
            <button type="button" className="tab tight ms-auto" aria-pressed={off} onClick={() => setOff(!off)}>
              taken off the shelf {first.off}
            </button>
          )}
        </div>
      )}
      {first?.count === 0 && search !== "" && <p className="faint">No build of that name or purpose.</p>}
      {first?.count === 0 && search === "" && !off && (
        <div className="empty-state">
          <h2>The shelf is empty</h2>
          <p>
            Begin a new build and type what is to run: pack, wires and fuses follow by themselves. Or start from a kind
            of station above, which is sound as it stands, and put your own loads in.
          </p>
          <Button onClick={() => begin.mutate("")}>New build</Button>
        </div>
      )}
      {first?.count === 0 && search === "" && off && <p className="faint">Nothing was taken off the shelf.</p>}
      <div className="shelf">
        {builds.map((item) => (
          <Card
            key={item.id}
            item={item}
            acts={
              off
                ? [["Put back on the shelf", () => restore.mutate(item.id)]]
                : [
                    ["Copy", () => copy.mutate(item.id)],
                    ["Take off the shelf", () => remove.mutate(item)],
                  ]
            }
          />
        ))}
      </div>
      {left > 0 && (
        <p className="text-center mt-4">
          <Button variant="quiet" disabled={shelf.isFetching} onClick={() => void shelf.fetchNextPage()}>
            Show {Math.min(PAGE, left)} more of {left}
          </Button>
        </p>
      )}
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

/** Kinds of station that a build can start from: sound as they stand, with typical loads to be replaced. */
function Starts({ onStart }: { onStart: (key: string) => void }) {
  const starts = useReference()?.starts ?? [];
  if (!starts.length) return null;
  return (
    <div className="starts" role="group" aria-label="Start from a kind of station">
      <span className="faint">or start from</span>
      {starts.map((start) => (
        <button key={start.key} type="button" className="start" onClick={() => onStart(start.key)}>
          <strong>{start.label}</strong>
          <span>{start.says}</span>
        </button>
      ))}
    </div>
  );
}

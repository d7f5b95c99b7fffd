import { useInfiniteQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { api, take, type Moment } from "../../api/client";
import { useRecorded, useRecordLine, type Written } from "../../design/record";
import { useDesign, useStore } from "../../design/store";
import { NotYet } from "../../figures/NotYet";
import { useShown } from "../../figures/units";
import { EntryForm, typedOf, type Draft } from "./EntryForm";
import { dayText, FILTERS, KINDS, type EntryKind } from "./kinds";
import { MomentMark } from "./MomentMark";
import { Photo, PhotoButton } from "../../figures/Photo";
import { RunPapers } from "../bench/RunPapers";

const PART = 60;
const AT_ENTRY = "/log/entries/";

const isEntryKind = (kind: unknown): kind is EntryKind => typeof kind === "string" && kind in KINDS;

/** What happened, the newest first; what is entered stands at its top until the server has it. */
export function TimeLine({
  draft,
  onDraft,
  selected,
}: {
  draft: Draft | null;
  onDraft: (draft: Draft | null) => void;
  selected: string;
}) {
  const { design } = useDesign();
  const { line, written } = useRecordLine(design.id);
  const { life } = useRecorded();
  const degrees = useShown("°C");
  const [shown, setShown] = useState(0);
  const [gone, setGone] = useState<{ item: string; data: Record<string, unknown>; title: string }[]>([]);
  const kinds = FILTERS[shown]!.kinds.join(",");
  const parts = useInfiniteQuery({
    queryKey: ["recorded", design.id, design.revision, "timeline", kinds],
    queryFn: ({ pageParam }) =>
      take(
        api.GET("/api/designs/{design_id}/timeline", {
          params: { path: { design_id: design.id }, query: { kinds, offset: pageParam, limit: PART } },
        }),
      ),
    initialPageParam: 0,
    getNextPageParam: (last, all) => {
      const there = all.reduce((n, part) => n + part.rows.length, 0);
      return there < last.count ? there : undefined;
    },
    placeholderData: (before) => before,
    staleTime: Infinity,
    gcTime: 60_000,
  });
  const counts = parts.data?.pages[0]?.counts ?? {};
  const rows = parts.data?.pages.flatMap((part) => part.rows) ?? [];
  const taken = new Set(written.map((w) => w.item));
  const change = (kind: EntryKind, item: string, data: Record<string, unknown>) =>
    onDraft({ kind, item, fields: typedOf(data, degrees) });
  return (
    <>
      <div className="log-kinds" role="group" aria-label="Enter">
        {(Object.keys(KINDS) as EntryKind[]).map((kind, n) =>
          kind === "photo" ? (
            <PhotoButton key={kind} className="tab tight" onPhoto={(file) => void line.photo(file, {})}>
              + photo
            </PhotoButton>
          ) : (
            <button
              key={kind}
              type="button"
              className="tab tight"
              data-new={n === 0 ? "" : undefined}
              aria-pressed={draft?.kind === kind && !draft.item}
              onClick={() => onDraft({ kind, item: "", fields: {} })}
            >
              + {KINDS[kind].name}
            </button>
          ),
        )}
      </div>
      {draft && (
        <EntryForm key={`${draft.kind} ${draft.item}`} draft={draft} onDraft={onDraft} onDone={() => onDraft(null)} />
      )}
      {(life?.faults.length ?? 0) > 0 && (
        <ul className="open-faults" aria-label="Open faults">
          {life!.faults.map((fault) => (
            <li key={fault.item}>
              <MomentMark kind="fault" />
              <span>
                <strong>{fault.what}</strong> <span className="faint">since {dayText(fault.on)}</span>
              </span>
              <button
                type="button"
                className="btn btn-quiet btn-sm"
                onClick={() => onDraft({ kind: "mend", item: "", fields: { fault: fault.item, place: fault.place } })}
              >
                Mended…
              </button>
            </li>
          ))}
        </ul>
      )}
      <div className="tabs log-filters" role="group" aria-label="Shown">
        {FILTERS.map(({ name, kinds: of }, n) => {
          const count = (of.length ? of : Object.keys(counts)).reduce((sum, kind) => sum + (counts[kind] ?? 0), 0);
          if (n > 0 && !count && shown !== n) return null;
          return (
            <button
              key={name}
              type="button"
              className="tab tight"
              aria-pressed={shown === n}
              onClick={() => setShown(n)}
            >
              {name} <span className="count">{count}</span>
            </button>
          );
        })}
      </div>
      {[...written].reverse().map((w) => (
        <Waiting key={w.entry} written={w} onChange={change} onDrop={() => line.drop(w.item)} />
      ))}
      {gone.map(({ item, data, title }) => (
        <p key={item} className="taken-back" role="status">
          Taken back: {title}.{" "}
          <button
            type="button"
            className="figure-button"
            onClick={() => {
              line.write(item, data);
              setGone((all) => all.filter((g) => g.item !== item));
            }}
          >
            Bring it back
          </button>
        </p>
      ))}
      {!parts.data ? (
        <NotYet error={parts.error} doing="Reading the log…" />
      ) : rows.length === 0 && !written.length ? (
        shown > 0 ? (
          <p className="faint">Nothing of this kind is in the log yet.</p>
        ) : (
          <div className="empty-state">
            <h2>Nothing happened yet</h2>
            <p className="mb-0">
              Steps ticked at the bench come here by themselves, with what was measured. Later enter what is taken out
              and put in, what breaks and is mended; a meter’s table can be pasted. Visits and wear follow from it.
            </p>
          </div>
        )
      ) : (
        <ol className="time-line" aria-label="Time line">
          {rows
            .filter((row) => !row.item || row.kind === "change" || !taken.has(row.item))
            .map((row, n, all) => (
              <Row
                key={row.item || `${row.kind} ${row.on} ${row.place || row.title}`}
                row={row}
                newDay={row.on !== all[n - 1]?.on}
                picked={row.item !== "" && selected === AT_ENTRY + row.item}
                onChange={() => row.data && change(row.data.kind, row.item, { ...row.data })}
                onWhy={() => onDraft({ kind: "note", item: "", fields: { of: "change", on: row.on } })}
                onBack={() => {
                  if (!row.data) return;
                  setGone((g) => [
                    ...g,
                    {
                      item: row.item,
                      data: { ...row.data },
                      title: row.kind === "change" ? row.remark : `${row.title}, ${row.text}`,
                    },
                  ]);
                  line.write(row.item, null);
                }}
              />
            ))}
        </ol>
      )}
      {parts.hasNextPage && (
        <button
          type="button"
          className="btn btn-quiet btn-sm"
          disabled={parts.isFetchingNextPage}
          onClick={() => void parts.fetchNextPage()}
        >
          {parts.isFetchingNextPage ? "Reading…" : "Earlier ones"}
        </button>
      )}
    </>
  );
}

function Row({
  row,
  newDay,
  picked,
  onChange,
  onWhy,
  onBack,
}: {
  row: Moment;
  newDay: boolean;
  picked: boolean;
  onChange: () => void;
  /** Say why the design was changed on that day. */
  onWhy: () => void;
  onBack: () => void;
}) {
  const own = useRef<HTMLLIElement>(null);
  useEffect(() => {
    if (picked) own.current?.scrollIntoView({ block: "center" });
  }, [picked]);
  return (
    <li ref={own} className={`${newDay ? "new-day" : ""} ${picked ? "picked" : ""}`} data-kind={row.kind}>
      <time dateTime={row.on} className={newDay ? "" : "visually-hidden"}>
        {dayText(row.on)}
      </time>
      <MomentMark kind={row.kind} fails={row.fails} />
      <span className="what">
        <strong>{row.title}</strong> {row.text}
        {row.remark && <span className="remark">{row.remark}</span>}
        {row.data?.kind === "photo" && <Photo photo={row.data} />}
        <IntoDesign row={row} />
        {row.kind === "test" && <RunPapers run={row.place.split("/").at(-1)!} />}
        {row.kind === "change" && !row.item && (
          <button type="button" className="figure-button ms-2" aria-label={`Why: ${row.title}`} onClick={onWhy}>
            why?
          </button>
        )}
      </span>
      {row.item && (
        <span className="acts">
          <button type="button" className="btn btn-bare btn-sm" aria-label={`Change: ${row.title}`} onClick={onChange}>
            change
          </button>
          <button type="button" className="btn btn-bare btn-sm" aria-label={`Take back: ${row.title}`} onClick={onBack}>
            take back
          </button>
        </span>
      )}
    </li>
  );
}

/** What was measured of a part, put into the design in the place of what stands there. */
function IntoDesign({ row }: { row: Moment }) {
  const store = useStore();
  const { design } = useDesign();
  if (row.data?.kind !== "measured") return null;
  const { place, field, value, part } = row.data;
  const node = design.document.power.network[place.split("/")[3] ?? ""];
  if (node?.part !== part || !(field in node) || Reflect.get(node, field) === value) return null;
  return (
    <button
      type="button"
      className="figure-button ms-2"
      onClick={() => {
        store.change([{ op: "replace", path: `${place}/${field}`, value }], `${row.title}: ${row.text}`);
        store.say(`${row.title}, ${row.text}: it stands in the design now.`, true);
      }}
    >
      Put it into the design
    </button>
  );
}

/** What was entered and is not stored yet, or was refused with a reason. */
function Waiting({
  written,
  onChange,
  onDrop,
}: {
  written: Written;
  onChange: (kind: EntryKind, item: string, data: Record<string, unknown>) => void;
  onDrop: () => void;
}) {
  const degrees = useShown("°C");
  const { data, item, problem } = written;
  const kind = data?.kind;
  if (!isEntryKind(kind)) return data === null ? <p className="faint">One entry is being taken back.</p> : null;
  const typed = typedOf(data!, degrees);
  const words = KINDS[kind].fields.map((f) => typed[f.name]).filter(Boolean);
  return (
    <div className={`waiting ${problem ? "refused" : ""}`}>
      <MomentMark kind={kind} />
      <span>
        <strong>{KINDS[kind].name}</strong> {dayText(typed.on ?? "")}, {words.join(", ")}
      </span>
      {problem ? (
        <>
          <span className="problem" role="alert">
            Not taken: {problem}.
          </span>
          {kind !== "photo" && (
            <button type="button" className="btn btn-quiet btn-sm" onClick={() => onChange(kind, item, data!)}>
              Put it right
            </button>
          )}
          <button type="button" className="btn btn-bare btn-sm" onClick={onDrop}>
            drop it
          </button>
        </>
      ) : (
        <span className="faint" role="status">
          not stored yet
        </span>
      )}
    </div>
  );
}

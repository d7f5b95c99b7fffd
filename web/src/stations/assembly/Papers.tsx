import type { Build } from "../../api/client";
import { useDesign } from "../../design/store";
import { TextField } from "../../figures/fields";

const PAPERS = [
  {
    file: "lid.pdf",
    name: "Sheet for the lid",
    says: "How it is switched off and on, what to do when something is wrong, its limits, how it is charged, the diagram with its fuses and cut-offs, manuals and spares. Printed on both sides and folded once, it stays with the station.",
  },
  {
    file: "book.pdf",
    name: "Build book",
    says: "Everything that is known of it: brief, findings, every check, pack, power path, box and its drill template at 1:1, lists and order of work with what is ticked, the sheet for the lid, log and photos.",
  },
  {
    file: "assembly.pdf",
    name: "Lists and order of work",
    says: "Shopping list, wire cut list, tools, and each step with what is checked at its end, to tick off by pencil.",
  },
];
const SIZES: [string, string][] = [
  ["A4", ""],
  ["letter", "?paper=letter"],
];

/** What is printed of the build, in both sizes of paper, and by what the sheet in its lid is known again. */
export function Papers({ build }: { build: Build }) {
  const { design } = useDesign();
  return (
    <>
      <ul className="papers">
        {PAPERS.map(({ file, name, says }) => (
          <li key={file}>
            <div>
              <h2>{name}</h2>
              <p className="faint mb-0">{says}</p>
            </div>
            <span className="text-nowrap">
              {SIZES.map(([size, query]) => (
                <a
                  key={size}
                  className="btn btn-quiet btn-sm ms-1"
                  href={`/api/designs/${design.id}/${file}${query}`}
                  target="_blank"
                  rel="noreferrer"
                  aria-label={`${name}, ${size}`}
                >
                  {size}
                </a>
              ))}
            </span>
          </li>
        ))}
      </ul>
      <h2 className="form-group-title">Known again</h2>
      <div className="kept-at">
        <TextField pointer="/assembly/kept_at" label="The design file is kept at" />
      </div>
      <p className="mt-2 mb-1">
        Digest of the design as it stands: <code className="digest">{build.digest.slice(0, 16)}</code>
      </p>
      <p className="faint">
        Sheet and book say the same, also as a code for a phone’s camera. Where they say another, the design was changed
        after they were printed.
      </p>
    </>
  );
}

import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, take, type Build } from "../../api/client";

/** The tools that the build asks for; which of them are there is remembered for all builds. */
export function Tools({ build }: { build: Build }) {
  const client = useQueryClient();
  const [problem, setProblem] = useState("");
  // What was ticked shows at once, until the answer is there.
  const [ticked, setTicked] = useState<Record<string, boolean>>({});
  const own = async (key: string, owned: boolean) => {
    setTicked((all) => ({ ...all, [key]: owned }));
    try {
      await take(api.PUT("/api/tools/{key}", { params: { path: { key } }, body: { owned } }));
      setProblem("");
      await client.invalidateQueries({ queryKey: ["assembly"] });
    } catch (error) {
      setProblem((error as Error).message);
    }
    setTicked((all) => Object.fromEntries(Object.entries(all).filter(([k]) => k !== key)));
  };
  const missing = build.tools.filter((t) => !t.owned).length;
  return (
    <>
      <p className="faint">
        {missing === 0 ? "All of them are there." : `${missing} of ${build.tools.length} are still to be found.`} What
        is ticked here counts for every build.
      </p>
      {problem && (
        <p className="problem" role="alert">
          {problem}
        </p>
      )}
      <table className="sheet-table">
        <thead>
          <tr>
            <th style={{ width: 70 }}>there</th>
            <th>tool</th>
            <th>for</th>
            <th>why</th>
          </tr>
        </thead>
        <tbody>
          {build.tools.map((tool) => (
            <tr key={tool.key} data-row={tool.key}>
              <td>
                <input
                  type="checkbox"
                  className="form-check-input"
                  aria-label={`${tool.what}: is there`}
                  checked={ticked[tool.key] ?? tool.owned}
                  onChange={(event) => void own(tool.key, event.target.checked)}
                />
              </td>
              <td>{tool.what}</td>
              <td>{tool.sizes}</td>
              <td className="faint">{tool.why}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}

/** What of a build an entry of the log can be about: its parts by their names, each with its place in the document. */
import type { DesignDocument } from "../../api/client";

export function placesOf({ power, charging, box, pack }: DesignDocument): [string, string][] {
  const named = (at: string, of: Record<string, { name: string }>) =>
    Object.entries(of).map(([key, { name }]): [string, string] => [`${at}/${key}`, name]);
  return [
    ["/pack", "Pack"],
    ...("board" in pack && pack.board ? ([["/pack/board", "Protection board"]] as [string, string][]) : []),
    ...named("/power/network", power.network),
    ...named("/power/banks", power.banks),
    ...named("/charging/sources", charging.sources),
    ["/box", "Box"],
    ...named("/box/fittings", box.fittings),
  ];
}

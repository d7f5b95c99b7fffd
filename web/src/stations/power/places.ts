import type { DesignDocument } from "../../api/client";

/** The pointer under which a part, a further bank or the pack is selected. */
export function placeOf(key: string, { banks }: DesignDocument["power"]): string {
  if (key === "pack") return "/pack";
  return key in banks ? `/power/banks/${key}` : `/power/network/${key}`;
}

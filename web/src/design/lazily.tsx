import { useEffect, useState, type ComponentType, type ReactNode } from "react";

const RETRY_MS = 2000;

/**
 * A part of the screen that is fetched when it is opened; while the server is away it is asked for again until it comes,
 * and `meanwhile` stands in its place. It shows as soon as it is there: a Suspense would hold it back for a third of a
 * second, and one within the other twice.
 */
export function lazily<Props extends object>(
  load: () => Promise<{ default: ComponentType<Props> }>,
  meanwhile: ReactNode,
): ComponentType<Props> {
  let there: ComponentType<Props> | null = null;
  const fetched = async () => {
    while (!there) {
      try {
        there = (await load()).default;
      } catch {
        await new Promise((again) => setTimeout(again, RETRY_MS));
      }
    }
    return there;
  };
  return function Lazily(props: Props) {
    const [Part, setPart] = useState(() => there);
    useEffect(() => {
      let gone = false;
      if (!Part) void fetched().then((part) => !gone && setPart(() => part));
      return () => {
        gone = true;
      };
    }, [Part]);
    return Part ? <Part {...props} /> : meanwhile;
  };
}

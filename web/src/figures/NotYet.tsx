/** What stands in the place of an answer that is not here: what is being done for it, or why there is none. */
export function NotYet({ error, doing }: { error: Error | null; doing: string }) {
  return error ? (
    <p className="problem" role="alert">
      {error.message}
    </p>
  ) : (
    <p className="faint">{doing}</p>
  );
}

import type { InputHTMLAttributes } from "react";
import type { useTyped } from "./typed";

interface Props extends Pick<InputHTMLAttributes<HTMLInputElement>, "placeholder" | "list" | "aria-label"> {
  id: string;
  typed: ReturnType<typeof useTyped>;
  className?: string;
}

/** The input of something typed; Escape takes back what was typed and not stored. */
export function TypedInput({ id, typed, className = "form-control form-control-sm", ...rest }: Props) {
  const { field, problem, forget } = typed;
  return (
    <input
      id={id}
      className={`${className}${problem ? " bad" : ""}`}
      aria-invalid={Boolean(problem)}
      aria-describedby={problem ? `${id}-problem` : undefined}
      autoComplete="off"
      spellCheck={false}
      {...rest}
      {...field}
      onKeyDown={(event) => {
        if (event.key === "Escape") forget();
      }}
    />
  );
}

/** Why what was typed is not taken, and what stands instead. */
export function WhyNot({
  id,
  typed,
  otherwise,
}: {
  id: string;
  typed: ReturnType<typeof useTyped>;
  otherwise: string;
}) {
  if (!typed.problem) return null;
  return (
    <span className="problem" id={`${id}-problem`} role="alert">
      {typed.problem}. {`Still in force: ${typed.stored || otherwise}.`}
    </span>
  );
}

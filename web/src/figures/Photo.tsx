import { useRef, type ReactNode } from "react";

interface Shown {
  digest: string;
  width: number;
  height: number;
  what?: string;
}

/** A photo, small; a click shows it large. */
export function Photo({ photo: { digest, width, height, what } }: { photo: Shown }) {
  const side = 96 / Math.max(width, height);
  return (
    <a className="photo" href={`/api/photos/${digest}`} target="_blank" rel="noreferrer">
      <img
        src={`/api/photos/${digest}?small=true`}
        width={Math.round(width * side)}
        height={Math.round(height * side)}
        loading="lazy"
        alt={what ? `Photo: ${what}` : "Photo"}
      />
    </a>
  );
}

/** Takes a photo with the camera, or files that are there. */
export function PhotoButton({
  className,
  onPhoto,
  children,
}: {
  className: string;
  onPhoto: (file: File) => void;
  children: ReactNode;
}) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <button type="button" className={className} onClick={() => input.current?.click()}>
        {children}
      </button>
      <input
        ref={input}
        type="file"
        accept="image/*"
        multiple
        hidden
        aria-label="Photos"
        onChange={(event) => {
          for (const file of event.target.files ?? []) onPhoto(file);
          event.target.value = "";
        }}
      />
    </>
  );
}

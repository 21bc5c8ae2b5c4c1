import type { Severity } from "@larder/core/model/finding";

/** A finding's mark: a triangle for an error, a diamond for a warning, a disc for information. */
export function FindingMark({ severity }: { severity: Severity }) {
  const label = { error: "Error", warning: "Warning", info: "Information" }[severity];
  return (
    <svg width="12" height="12" viewBox="0 0 12 12" role="img" aria-label={label} className="mt-1 shrink-0">
      {severity === "error" ? <path d="M6 .8 11.6 11H.4Z" className="fill-harm" /> : null}
      {severity === "warning" ? <path d="M6 0 12 6 6 12 0 6Z" className="fill-look-mark" /> : null}
      {severity === "info" ? <circle cx="6" cy="6" r="5" className="fill-info" /> : null}
    </svg>
  );
}

/** A split in words with its glyph: full for train, half for val, ring for test, a short line for none. */
export function SplitMark({ split }: { split: string | null }) {
  return (
    <span className="inline-flex items-center gap-1.5">
      <svg width="10" height="10" viewBox="0 0 10 10" aria-hidden="true">
        {split === "train" ? <circle cx="5" cy="5" r="4.6" fill="currentColor" /> : null}
        {split === "val" ? (
          <>
            <circle cx="5" cy="5" r="4" fill="none" stroke="currentColor" strokeWidth="1.3" />
            <path d="M5 1a4 4 0 0 0 0 8Z" fill="currentColor" />
          </>
        ) : null}
        {split === "test" ? <circle cx="5" cy="5" r="4" fill="none" stroke="currentColor" strokeWidth="1.3" /> : null}
        {split === null || split === "none" ? <path d="M2 5h6" stroke="currentColor" strokeWidth="1.3" /> : null}
      </svg>
      {split ?? "none"}
    </span>
  );
}

/** A class's colour and short code. */
export function ClassMark({ colour, code }: { colour: string; code?: string }) {
  return (
    <span className="inline-flex items-center gap-1.5">
      <span aria-hidden="true" className="inline-block size-2.5 rounded-[2px]" style={{ background: colour }} />
      {code ? <span className="w-6 text-[10.5px] font-semibold tracking-wider text-ink-3">{code}</span> : null}
    </span>
  );
}

/** Larder's mark: three boards with jars on them. */
export function LarderMark() {
  return (
    <svg width="19" height="19" viewBox="0 0 19 19" aria-hidden="true">
      <path d="M1.5 5.7h16M1.5 11.7h16M1.5 17.7h16" className="stroke-act" strokeWidth="1.5" />
      <rect x="3" y="1.3" width="3.4" height="3.7" className="fill-act" />
      <rect x="8.6" y="2.2" width="5" height="2.8" rx="1.4" fill="var(--band-1)" />
      <rect x="4.6" y="7.9" width="5" height="3.1" rx="1.5" fill="var(--band-1)" />
      <rect x="12.6" y="7.2" width="2.7" height="3.8" className="fill-act" />
      <rect x="6.6" y="13.2" width="3.2" height="3.8" className="fill-act" />
      <rect x="11.4" y="14" width="4.6" height="3" rx="1.5" fill="var(--band-1)" />
    </svg>
  );
}

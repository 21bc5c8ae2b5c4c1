import type { ReactNode } from "react";

/** A page with nothing on it yet: what to do first. */
export function Empty({ title, children, action }: { title: string; children?: ReactNode; action?: ReactNode }) {
  return (
    <div className="mx-auto mt-[12vh] max-w-md text-center">
      <svg width="72" height="44" viewBox="0 0 72 44" aria-hidden="true" className="mx-auto mb-4">
        <path d="M2 41h68" className="stroke-rule-strong" strokeWidth="2.5" />
        <path
          d="M14 39V22a5 5 0 0 1 5-5h5a5 5 0 0 1 5 5v17M16 17v-4h11v4M42 39c0-9 4-13 9-13s9 4 9 13"
          fill="none"
          className="stroke-rule-strong"
          strokeWidth="1.6"
          strokeDasharray="3 3"
        />
      </svg>
      <h2 className="text-[17px]">{title}</h2>
      {children ? <div className="mt-1.5 text-ink-2">{children}</div> : null}
      {action ? <div className="mt-4 flex justify-center gap-2">{action}</div> : null}
    </div>
  );
}

export function Loading({ what }: { what: string }) {
  return (
    <p role="status" className="px-5 py-10 text-ink-3">
      Fetching {what} …
    </p>
  );
}

/** What went wrong, to what, and what to do; what is not there any more is a page of its own. */
export function Trouble({ error, again }: { error: Error; again?: () => void }) {
  if ("status" in error && error.status === 404)
    return (
      <Empty
        title="It is not here"
        action={
          <a href="/" className="font-medium underline">
            To the shelves
          </a>
        }
      >
        <span role="alert">{error.message}</span>
      </Empty>
    );
  return (
    <div role="alert" className="m-5 max-w-xl rounded-md border border-harm bg-harm-wash p-4">
      <p>{error.message}</p>
      {again ? (
        <button type="button" onClick={again} className="mt-2 font-medium underline">
          Try again
        </button>
      ) : null}
    </div>
  );
}

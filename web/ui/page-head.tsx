import type { ReactNode } from "react";

/** The head of a station's page: its name, what there is to say beside it, and its actions at the right. */
export function PageHead({ title, aside, children }: { title: ReactNode; aside?: ReactNode; children?: ReactNode }) {
  return (
    <div className="flex min-h-[58px] flex-wrap items-center gap-x-3 gap-y-2 px-5 py-3">
      <h1 className="text-[21px] leading-tight">{title}</h1>
      {aside ? <span className="text-ink-3">{aside}</span> : null}
      {children ? <div className="ml-auto flex items-center gap-2">{children}</div> : null}
    </div>
  );
}

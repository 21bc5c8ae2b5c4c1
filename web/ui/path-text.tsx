import { Fragment } from "react";

/** Text with paths in it, which may be broken after each slash rather than in the middle of a name. */
export function PathText({ children }: { children: string }) {
  return children.split(/(?<=\/)/).map((part, nth) => (
    <Fragment key={nth}>
      {part}
      <wbr />
    </Fragment>
  ));
}

/** As many of the last letters always stay: names of one kind often differ there. */
const kept = 8;

/** A text that gives way in its middle where there is no room for all of it. */
export function MiddleText({ text }: { text: string }) {
  if (text.length <= 2 * kept) return <span className="block truncate">{text}</span>;
  return (
    <span className="inline-flex max-w-full min-w-0 align-bottom" title={text}>
      <span className="truncate whitespace-pre">{text.slice(0, -kept)}</span>
      <span className="shrink-0 whitespace-pre">{text.slice(-kept)}</span>
    </span>
  );
}

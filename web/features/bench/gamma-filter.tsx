/** The filter that the view's gamma is shown by: style sheets have no short word for it. `gamma`: in hundredths. */
export function GammaFilter({ gamma }: { gamma: number }) {
  return (
    <svg className="absolute size-0" aria-hidden="true">
      <filter id="bench-gamma" colorInterpolationFilters="sRGB">
        <feComponentTransfer>
          {(["R", "G", "B"] as const).map((channel) => {
            const Channel = `feFunc${channel}` as "feFuncR";
            return <Channel key={channel} type="gamma" exponent={100 / gamma} />;
          })}
        </feComponentTransfer>
      </filter>
    </svg>
  );
}

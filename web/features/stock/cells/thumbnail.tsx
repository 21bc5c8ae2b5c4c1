/**
 * An image's thumbnail in a list that thousands are scrolled by in. It is a background: Chromium's collector asks about each
 * `img` that there was since it last ran, all in one go, which holds up the scrolling.
 */
export function Thumbnail({
  image,
  filter,
  className,
}: {
  image: number;
  filter?: string | undefined;
  className: string;
}) {
  return (
    <span
      data-thumbnail={image}
      className={`block bg-center bg-no-repeat [print-color-adjust:exact] ${className}`}
      style={{ backgroundImage: `url(/api/images/${image}/thumbnail)`, filter }}
    />
  );
}

/** Which place of the grid was opened last, for coming back to it; kept as long as the tab is. */
const keyOf = (collection: number) => `larder-place-${collection}`;

type Place = { query: string; index: number };

function placeOf(collection: number): Place | null {
  try {
    return JSON.parse(sessionStorage.getItem(keyOf(collection)) ?? "null") as Place | null;
  } catch {
    return null;
  }
}

/** Notes that the image at this place of the grid, under these filters, is looked at. */
export function rememberPlace(collection: number, query: string, index: number): void {
  sessionStorage.setItem(keyOf(collection), JSON.stringify({ query, index } satisfies Place));
}

/** Notes that the next image, or the one before, is looked at instead. */
export function movePlace(collection: number, by: number): void {
  const place = placeOf(collection);
  if (place) rememberPlace(collection, place.query, Math.max(0, place.index + by));
}

/** The place that was opened under these filters; asked for once. */
export function takePlace(collection: number, query: string): number | null {
  const place = placeOf(collection);
  if (place?.query !== query) return null;
  sessionStorage.removeItem(keyOf(collection));
  return place.index;
}

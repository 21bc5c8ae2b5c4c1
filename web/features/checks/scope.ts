/** What a stocktake looks at, and where its pictures are. */
export type CheckScope = {
  /** A selection; an empty one for everything. */
  where: string;
  /** The id of a plan whose outcome is looked at. */
  plan?: number | undefined;
  /** The number of a version. */
  version?: number | undefined;
};

/** The scope as parameters of an address. */
export function scopeParameters({ where, plan, version }: CheckScope): URLSearchParams {
  const parameters = new URLSearchParams(where === "" ? {} : { where });
  if (plan) parameters.set("plan", String(plan));
  if (version) parameters.set("version", String(version));
  return parameters;
}

export const isWholeStock = ({ where, plan, version }: CheckScope): boolean => where === "" && !plan && !version;

/** Where the images of the scope that fulfil a condition are seen in stock; null where these are no part of the stock. */
export function stockAddress(collection: number, scope: CheckScope, where: string): string | null {
  if (scope.plan || scope.version) return null;
  const both = scope.where.trim() === "" ? where : `(${scope.where}) and (${where})`;
  return `/c/${collection}/stock?${new URLSearchParams({ where: both }).toString()}`;
}

/** Where some images are seen in stock; null where there are none, or a version is looked at. */
export function imagesAddress(collection: number, { version }: CheckScope, ids: readonly number[]): string | null {
  if (version || ids.length === 0) return null;
  return `/c/${collection}/stock?${new URLSearchParams(ids.map((id) => ["only", String(id)])).toString()}`;
}

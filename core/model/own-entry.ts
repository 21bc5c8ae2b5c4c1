/** What a record says under a name of its own, else null: a class or an attribute may be called `constructor`. */
export function ownEntry<T>(record: Readonly<Record<string, T>> | undefined, name: string): T | null {
  return record !== undefined && Object.hasOwn(record, name) ? (record[name] as T) : null;
}

/** As many entries are read at once, and wait to be used. */
const most = 8;

type Entry<T> = { of: T; reading: Promise<Uint8Array> | null };

/**
 * Entries in their order, each with a way to its bytes. From the first that is asked for on the next ones are read
 * ahead, so that whoever writes them out does not wait for the disk; who asks for none reads none.
 */
export async function* readAhead<T>(
  entries: AsyncIterable<T>,
  read: (entry: T) => Promise<Uint8Array>,
): AsyncIterable<{ entry: T; bytes: () => Promise<Uint8Array> }> {
  const queue: Entry<T>[] = [];
  let asked = false;
  const start = (waiting: Entry<T>): Promise<Uint8Array> => {
    waiting.reading ??= read(waiting.of);
    // Said where it is asked for; one that is never asked for may fail in silence.
    waiting.reading.catch(() => undefined);
    return waiting.reading;
  };
  const next = (waiting: Entry<T>) => ({
    entry: waiting.of,
    bytes: () => {
      asked = true;
      const own = start(waiting);
      for (const other of queue) void start(other);
      return own;
    },
  });
  for await (const of of entries) {
    const waiting: Entry<T> = { of, reading: null };
    queue.push(waiting);
    if (asked) void start(waiting);
    if (queue.length >= most) yield next(queue.shift() as Entry<T>);
  }
  for (let waiting = queue.shift(); waiting; waiting = queue.shift()) yield next(waiting);
}

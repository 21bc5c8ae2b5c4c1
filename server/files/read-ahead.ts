/** As many entries are read at once, and wait to be used. */
const most = 8;

type Entry<T, R> = { of: T; reading: Promise<R> | null };

/**
 * Entries in their order, each with a way to its bytes. From the first that is asked for on the next ones are read
 * ahead, so that whoever writes them out does not wait for the disk; who asks for none reads none.
 */
export async function* readAhead<T, R = Uint8Array>(
  entries: AsyncIterable<T>,
  read: (entry: T) => Promise<R>,
): AsyncIterable<{ entry: T; bytes: () => Promise<R> }> {
  const queue: Entry<T, R>[] = [];
  let asked = false;
  const start = (waiting: Entry<T, R>): Promise<R> => {
    waiting.reading ??= read(waiting.of);
    // Said where it is asked for; one that is never asked for may fail in silence.
    waiting.reading.catch(() => undefined);
    return waiting.reading;
  };
  const next = (waiting: Entry<T, R>) => ({
    entry: waiting.of,
    bytes: () => {
      asked = true;
      const own = start(waiting);
      for (const other of queue) void start(other);
      return own;
    },
  });
  for await (const of of entries) {
    const waiting: Entry<T, R> = { of, reading: null };
    queue.push(waiting);
    if (asked) void start(waiting);
    if (queue.length >= most) yield next(queue.shift() as Entry<T, R>);
  }
  for (let waiting = queue.shift(); waiting; waiting = queue.shift()) yield next(waiting);
}

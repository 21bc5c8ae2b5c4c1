/** The same function, asked once for each value that it is given; nobody may change what it returns. */
export function onceEach<Key, Value>(work: (key: Key) => Value): (key: Key) => Value {
  const known = new Map<Key, Value>();
  return (key) => {
    const there = known.get(key);
    if (there !== undefined) return there;
    const value = work(key);
    known.set(key, value);
    return value;
  };
}

// AssemblyScript.

/** Makes room for so many bytes of memory in all. */
export function reserve(bytes: usize): void {
  const pages = <i32>((bytes + 0xffff) >>> 16);
  const there = memory.size();
  if (pages > there && memory.grow(pages - there) < 0) unreachable();
}

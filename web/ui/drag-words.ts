import type { Announcements, UniqueIdentifier } from "@dnd-kit/core";

/** What is said of a drag to those who do not see it; `nameOf` gives the name of what is moved, or moved over. */
export function dragWords(nameOf: (id: UniqueIdentifier) => string): Announcements {
  return {
    onDragStart: ({ active }) => `${nameOf(active.id)} is picked up.`,
    onDragOver: ({ active, over }) =>
      over ? `${nameOf(active.id)} is over ${nameOf(over.id)}.` : `${nameOf(active.id)} is over nothing.`,
    onDragEnd: ({ active, over }) =>
      over ? `${nameOf(active.id)} is put down at ${nameOf(over.id)}.` : `${nameOf(active.id)} is put back.`,
    onDragCancel: ({ active }) => `${nameOf(active.id)} is put back.`,
  };
}

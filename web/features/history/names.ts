const kinds: Record<string, string> = {
  "take-in": "taking in",
  undo: "taking back",
  redo: "doing again",
  move: "moving between splits",
  deal: "dealing into splits",
  pin: "pinning",
  tag: "tagging",
  untag: "taking tags off",
  "mark-empty": "marking as empty",
  "mark-unlabeled": "marking as unlabeled",
  "replace-class": "giving images another class",
  "set-classes": "setting classes",
  reclass: "giving objects another class",
  "remove-objects": "removing objects",
  "set-attribute": "setting an attribute",
  "set-object-attribute": "setting an attribute of objects",
  "rename-attribute": "renaming an attribute",
  "drop-class": "removing a class",
  "add-class": "giving a class",
  "remove-class": "taking a class off",
  merge: "merging classes",
  rename: "renaming classes",
  remove: "putting into the bin",
  restore: "taking out of the bin",
  edit: "editing single images",
};

export function kindName(kind: string): string {
  return kinds[kind] ?? kind;
}

/** A person as they are called here; there are no accounts yet. */
export function actorName(actor: string): string {
  if (actor === "local") return "you";
  return actor === "larder" ? "Larder" : actor;
}

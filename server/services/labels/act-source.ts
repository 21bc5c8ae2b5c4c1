/** What an act came through, where that was no person's hand. */
export type ActSource =
  { kind: "delivery"; id: number } | { kind: "suggestion-run"; id: string } | { kind: "token"; name: string };

/** Ten selections that show what the language can say; each is pressed to be tried. */
export const examples: readonly { where: string; says: string }[] = [
  { where: "has any", says: "images with at least one object" },
  { where: "has 5.. any", says: "five objects or more" },
  { where: "objects = 0 and state = labeled", says: "labeled, with no object on it" },
  { where: "has any (share < 1%)", says: "something tiny on it" },
  { where: "has any (confidence < 0.5)", says: "something its maker was unsure of" },
  { where: "split = none and state != unlabeled", says: "labeled, and in no split yet" },
  { where: "split in {val, test} and near-copies >= 1", says: "measured on, though nearly the same stands elsewhere" },
  { where: "width < 640 or ratio > 2", says: "small or very wide" },
  { where: 'name like "*_2*"', says: "by a part of the name" },
  { where: "tag is unset and changed >= 2026-01-01", says: "no tag, labels changed this year" },
];

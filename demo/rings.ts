/** Nine coloured rings on a plain ground, the same for a number each time: scenes that are plainly told apart. */
export function ringsSvg(n: number): string {
  const circles = Array.from({ length: 9 }, (_, i) => {
    const [x, y] = [(i * 97 + n * 61) % 320, (i * 53 + n * 37) % 240];
    const fill = `hsl(${(i * 40 + n * 70) % 360} 60% ${30 + ((i * 7 + n * 5) % 5) * 10}%)`;
    return `<circle cx="${x}" cy="${y}" r="${18 + ((i + n) % 4) * 6}" fill="${fill}"/>`;
  });
  return [
    '<svg xmlns="http://www.w3.org/2000/svg" width="320" height="240"><rect width="320" height="240" fill="#886"/>',
    ...circles,
    "</svg>",
  ].join("");
}

import type { GateResult } from "@larder/core/checks/gates";
import type { Finding } from "@larder/core/model/finding";

const colours = { error: "\u001b[31m", warning: "\u001b[33m", info: "\u001b[34m" };
const plain = "\u001b[0m";

/** A table with numbers at the right. */
export function printRows(head: readonly string[], rows: readonly (readonly (string | number)[])[]): void {
  const texts = [head, ...rows].map((row) =>
    row.map((cell) => (typeof cell === "number" ? cell.toLocaleString("en-US") : cell)),
  );
  const widths = head.map((_, column) => Math.max(...texts.map((row) => row[column]?.length ?? 0)));
  texts.forEach((row) =>
    console.log(
      row
        .map((cell, column) => (column === 0 ? cell.padEnd(widths[column] ?? 0) : cell.padStart(widths[column] ?? 0)))
        .join("  "),
    ),
  );
  console.log("");
}

/** Findings, worst first, one line each and its examples under it; coloured on a terminal only. */
export function printFindings(findings: readonly Finding[]): void {
  for (const { severity, code, sentence, examples } of findings) {
    const word = process.stdout.isTTY ? `${colours[severity]}${severity}${plain}` : severity;
    console.log(`${word}  ${sentence}  [${code}]`);
    if (examples.length > 0) console.log(`         ${examples.join(" · ")}`);
  }
}

/** The gates of a plan, one line each. */
export function printGates(gates: readonly GateResult[]): void {
  for (const { code, most, found, isOpen, sentences } of gates)
    console.log(`gate ${isOpen ? "open" : "closed"}  ${code}: ${found} found, at most ${most}. ${sentences.join(" ")}`);
}

import { Failure } from "../model/failure";

/** A selection that cannot be understood: where (columns count from 1), how much of the text, and what may stand there. */
export class SelectionError extends Failure {
  constructor(
    message: string,
    readonly at: number,
    readonly length: number,
    readonly expected: readonly string[] = [],
  ) {
    super("selection-invalid", `${message} (column ${at})`, 400, { at, length, expected });
  }
}

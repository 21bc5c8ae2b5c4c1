/** The gates of a plan: by the code of a check how much it may find in what the plan leaves of the stock. */
import { z } from "zod";
import { checkCodes, type CheckCode } from "../checks/codes";
import { nearest } from "./augmentations";
import { whole } from "./numbers";

export type Gates = Partial<Record<CheckCode, number>>;

const isCode = (text: string): text is CheckCode => (checkCodes as readonly string[]).includes(text);

export const gatesSchema = z
  .record(z.string(), whole(0, 1e9))
  .superRefine((gates, context) => {
    for (const code of Object.keys(gates))
      if (!isCode(code))
        context.addIssue({
          code: "custom",
          message: `There is no check ${code}.${nearest(code, checkCodes)} Checks are ${checkCodes.join(", ")}.`,
          path: [code],
        });
  })
  .transform((gates): Gates => gates)
  .default({});

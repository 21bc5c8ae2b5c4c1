import { mostPicked, selectionSchema } from "@larder/core/selection/chosen";
import { longestText } from "@larder/core/selection/tokens";
import { orderSchema } from "@larder/core/snapshot/order";
import { z } from "zod";
import { one } from "./answer";

/** An order as an address carries it: `sort=name`, `sort=-taken`, `sort=random&seed=7`, `sort=like&like=12`. */
export const askedOrder = z
  .object({
    sort: one(
      z
        .string()
        .regex(/^-?[a-z]+$/)
        .default("arrival"),
    ),
    seed: one(z.coerce.number().default(1)),
    like: z.array(z.coerce.number()).optional(),
  })
  .transform(({ sort, seed, like }, context) => {
    const order = orderSchema.safeParse({ by: sort.replace(/^-/, ""), down: sort.startsWith("-"), seed, like });
    if (order.success) return order.data;
    context.addIssue({ code: "custom", message: "There is no such order of images." });
    return z.NEVER;
  });

/** A selection as an address carries it: `where` is its text, `only` names single images. */
export const askedSelection = z
  .object({
    where: one(z.string().max(longestText, "A selection has 20,000 characters at most.").default("")),
    only: z.array(z.coerce.number().int()).max(mostPicked).optional(),
  })
  .transform(({ where, only }) => selectionSchema.parse({ where, only: only ?? null }));

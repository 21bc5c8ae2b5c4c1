import { z } from "zod";
import { checksOf } from "@larder/server/services/checks/stocktake";
import { answer } from "@/edge/answer";
import { askedScope } from "@/edge/asked-scope";

const askedSchema = z.object(askedScope);

export const GET = answer(({ actor, id, query }) => checksOf(actor, id(), query(askedSchema)));

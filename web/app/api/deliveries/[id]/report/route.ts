import { deliveryOf } from "@larder/server/services/deliveries";
import { deliveryReport } from "@larder/server/services/intake/delivery-report";
import { answer } from "@/edge/answer";
import { csvDownload } from "@/edge/csv-download";

const fileName = (name: string) =>
  name
    .replace(/[^\p{L}\p{N}]+/gu, "-")
    .replace(/^-|-$/g, "")
    .toLowerCase() || "delivery";

export const GET = answer(async ({ actor, id }) => {
  const { name } = await deliveryOf(actor, id());
  return csvDownload(`${fileName(name)}-findings`, deliveryReport(actor, id()));
});

import { answer } from "@/edge/answer";
import { localActor } from "@larder/server/services/actor";
import { deliveryRow } from "@larder/server/services/deliveries";
import { deliveryReport } from "@larder/server/services/intake/preview";

export const GET = answer(async ({ id }) => {
  const { name } = await deliveryRow(id());
  const lines = deliveryReport(localActor, id())[Symbol.asyncIterator]();
  const body = new ReadableStream<Uint8Array>({
    async pull(controller) {
      const next = await lines.next();
      if (next.done) controller.close();
      else controller.enqueue(new TextEncoder().encode(next.value));
    },
  });
  const file = `${
    name
      .replace(/[^\p{L}\p{N}]+/gu, "-")
      .replace(/^-|-$/g, "")
      .toLowerCase() || "delivery"
  }-findings.csv`;
  return new Response(body, {
    headers: {
      "content-type": "text/csv; charset=utf-8",
      "content-disposition": `attachment; filename*=UTF-8''${encodeURIComponent(file)}`,
    },
  });
});

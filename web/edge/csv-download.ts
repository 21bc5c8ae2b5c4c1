/** Lines of CSV as a file to save, sent as they come. */
export async function csvDownload(name: string, lines: AsyncIterable<string>): Promise<Response> {
  const iterator = lines[Symbol.asyncIterator]();
  // The first line is asked for before anything is sent: what is refused is answered as such.
  let next = await iterator.next();
  const body = new ReadableStream<Uint8Array>({
    async pull(controller) {
      if (next.done) return controller.close();
      controller.enqueue(new TextEncoder().encode(next.value));
      next = await iterator.next();
    },
  });
  return new Response(body, {
    headers: {
      "content-type": "text/csv; charset=utf-8",
      "content-disposition": `attachment; filename*=UTF-8''${encodeURIComponent(`${name}.csv`)}`,
    },
  });
}

import { uploads } from "@/edge/uploads";

async function handle(request: Request): Promise<Response> {
  const response = await uploads().handleWeb(request);
  // The protocol's library invites pages of any origin; only Larder's own send files here.
  const headers = new Headers(response.headers);
  for (const name of [...headers.keys()]) if (name.startsWith("access-control-")) headers.delete(name);
  return new Response(response.body, { status: response.status, statusText: response.statusText, headers });
}

export { handle as DELETE, handle as GET, handle as HEAD, handle as OPTIONS, handle as PATCH, handle as POST };

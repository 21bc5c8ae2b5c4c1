import { uploads } from "@/edge/uploads";

const handle = (request: Request) => uploads().handleWeb(request);

export { handle as DELETE, handle as GET, handle as HEAD, handle as OPTIONS, handle as PATCH, handle as POST };

// A thread does not take over how its process reads TypeScript: this one says so itself.
import { register } from "tsx/esm/api";

register();
const { countRequest } = await import("./counting-thread.ts");
export default countRequest;

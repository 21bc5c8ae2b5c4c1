// A thread does not take over how its process reads TypeScript: this one says so itself.
import { register } from "tsx/esm/api";

register();
const { answer } = await import("./snapshot-thread.ts");
export default answer;

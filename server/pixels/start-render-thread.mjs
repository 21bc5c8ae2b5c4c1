// A thread does not take over how its process reads TypeScript: this one says so itself.
import { register } from "tsx/esm/api";

register();
const { renderTask } = await import("./render-thread.ts");
export default renderTask;

// Tests start Larder's programs and threads as the application does: compiled.
export { compilePrograms as setup } from "./compile-programs.mjs";

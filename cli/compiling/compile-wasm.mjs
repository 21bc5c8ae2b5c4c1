// Compiles what lies in core/wasm/assembly and writes it as modules that every runtime can load: npm run build:wasm -w cli
import { main } from "assemblyscript/asc";
import { writeFileSync } from "node:fs";
import { fileURLToPath } from "node:url";

const here = (name) => fileURLToPath(new URL(`../../core/wasm/${name}`, import.meta.url));

/** What is compiled, by the name of its source. */
export const modules = ["fused", "features", "hashes"];

/** The bytes of a compiled module. Throws what the compiler says. */
export async function compileModule(name) {
  const words = [
    "--outFile",
    `${name}.wasm`,
    "-O3",
    "--enable",
    "simd",
    "--runtime",
    "stub",
    "--noAssert",
    "--use",
    "abort=",
  ];
  let bytes = null;
  const { error, stderr } = await main([here(`assembly/${name}.ts`), ...words], {
    writeFile: (_, contents) => void (bytes = contents),
  });
  if (error || !bytes) throw new Error(stderr.toString());
  return bytes;
}

if (process.argv[1] === fileURLToPath(import.meta.url)) {
  for (const name of modules) {
    const text = Buffer.from(await compileModule(name)).toString("base64");
    const lines = text.match(/.{1,100}/g).map((line) => `  "${line}",`);
    writeFileSync(
      here(`${name}-bytes.ts`),
      `/** assembly/${name}.ts, compiled: made by npm run build:wasm -w cli, never by hand. */\nexport const ${name}Bytes = [\n${lines.join("\n")}\n].join("");\n`,
    );
  }
}

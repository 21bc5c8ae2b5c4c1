// Compiles core/imaging/wasm/assembly/fused.ts and writes it as a module that every runtime can load: npm run build:wasm -w cli
import { main } from "assemblyscript/asc";
import { writeFileSync } from "node:fs";
import { fileURLToPath } from "node:url";

const here = (name) => fileURLToPath(new URL(`../../core/imaging/wasm/${name}`, import.meta.url));

/** The bytes of the compiled pass. Throws what the compiler says. */
export async function compileFused() {
  const words = [
    "--outFile",
    "fused.wasm",
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
  const { error, stderr } = await main([here("assembly/fused.ts"), ...words], {
    writeFile: (_, contents) => void (bytes = contents),
  });
  if (error || !bytes) throw new Error(stderr.toString());
  return bytes;
}

if (process.argv[1] === fileURLToPath(import.meta.url)) {
  const text = Buffer.from(await compileFused()).toString("base64");
  const lines = text.match(/.{1,100}/g).map((line) => `  "${line}",`);
  writeFileSync(
    here("fused-bytes.ts"),
    `/** assembly/fused.ts, compiled: made by npm run build:wasm -w cli, never by hand. */\nexport const fusedBytes = [\n${lines.join("\n")}\n].join("");\n`,
  );
}

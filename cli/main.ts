import type { BuildInput } from "./converting/build";
import { packageFormats } from "@larder/core/formats/registry";
import { Failure, sentenceFor } from "@larder/core/model/failure";
import { Command, CommanderError } from "commander";

const root = process.env["LARDER_ROOT"] ?? process.cwd();
// Each command brings its own part of Larder along when it is called; none pays for the others.
const running = () => import("./running/up");
const program = new Command("larder")
  .description("Takes labeled images in, keeps them, and sends out frozen, numbered data sets.")
  .showHelpAfterError()
  .exitOverride();

program
  .command("up")
  .description("starts Larder with its demo data and prints the address")
  .action(async () => (await running()).up(root));
program
  .command("down")
  .description("stops what up started")
  .action(async () => (await running()).down());
program
  .command("reset")
  .description("empties Larder, after asking")
  .option("--yes", "do not ask")
  .action(async (options: { yes?: boolean }) => (await running()).reset(options.yes ?? false));
program
  .command("test")
  .description("runs every unit, integration and browser test")
  .action(async () => (await import("./checking/test")).test(root));
program
  .command("bench")
  .description("runs the benchmarks, as ratios, each in a process and a database of its own")
  .option("--images <n>", "pictures of the intake benchmark", "2000")
  .option(
    "--only <name>",
    "masks, propose, checks, drawing, scrolling, coco, hostile, render, memory, worker, sheet, stock, packing, page or intake",
    "all",
  )
  .option("--brief", "leaves out what takes longest, as when all are run")
  .action(async ({ images, only, brief }: { images: string; only: string; brief?: boolean }) => {
    process.exitCode = await (
      await import("@larder/bench/run")
    ).bench(only, { images: Number(images), brief: brief ?? false });
  });
program
  .command("shots")
  .description("takes the PNGs in docs/screenshots from the demo data")
  .action(async () => (await import("@larder/e2e/shots")).shots(root));
/** Sources, destinations and plans are named from where the command was called, not from Larder's own folder. */
program.hook("preAction", (_, command) => {
  const from = process.env["LARDER_CALLED_FROM"];
  if (from && ["inspect", "check", "convert", "build"].includes(command.name())) process.chdir(from);
});
const several = (value: string, before: string[]) => [...before, value];
type ReadingOptions = { where?: string; from?: string; option: string[]; json?: boolean };
/** A command that reads a source, with the options for how it is read. */
const reading = (name: string, description: string) =>
  program
    .command(`${name} <source>`)
    .description(description)
    .option("--where <selection>", "only the images that it means, as docs/selection.md has it")
    .option("--from <format>", "read it as this format")
    .option("--option <key=value>", "an option of the format, may be repeated", several, [])
    .option("--json", "one JSON object and nothing else");
reading(
  "inspect",
  "says what a labeled image collection on disk holds: a folder, a .zip, a .tar or .tar.gz, or an annotation file beside its images",
).action(
  async (source: string, options: ReadingOptions) =>
    void (process.exitCode = await (await import("./converting/inspect")).inspect(source, options)),
);
reading("check", "the stocktake on files: what is wrong with a labeled image collection, worst first")
  .option("--plan <file>", "looks at what a plan leaves of it, and says whether the plan's gates are open")
  .action(
    async (source: string, options: ReadingOptions & { plan?: string }) =>
      void (process.exitCode = await (await import("./converting/check")).check(source, options)),
  );
const convertCommand = program
  .command("convert <source> <destination>")
  .description("rewrites it in another format, into a folder that is absent or empty, or a .zip")
  .option("--to <format>", `one of ${packageFormats.join(", ")}; without it, one that suits what the source holds`)
  .option("--where <selection>", "only the images that it means, as docs/selection.md has it")
  .option("--from <format>", "read it as this format")
  .option("--option <key=value>", "an option of either format, may be repeated", several, [])
  .option("--json", "one JSON object and nothing else")
  .helpOption(false)
  .option("-h, --help [format]", "this help, or what a format carries and which options it takes")
  .addHelpText("after", "\nFor a format's options: larder convert --help FORMAT")
  .action(
    async (
      source: string,
      destination: string,
      options: { to?: string; where?: string; from?: string; option: string[]; json?: boolean },
    ) => void (process.exitCode = await (await import("./converting/convert")).convert(source, destination, options)),
  );

program
  .command("build <source> [destination]")
  .description(
    "runs a plan on it: select, relabel, split, prepare, augment, pack; several formats go to folders of their names",
  )
  .requiredOption("--plan <file>", "the plan, as YAML")
  .option("--from <format>", "read it as this format")
  .option("--option <key=value>", "an option of the source's format, may be repeated", several, [])
  .option("--manifest <file>", "writes the manifest, whose SHA-256 is the digest")
  .option("--dry", "counts and prints, and writes nothing")
  .option("--explain <name>", "says at which step the image of that name leaves and why, or what it becomes")
  .option("--yes", "builds a plan that makes more than a million images without asking")
  .option("--json", "one JSON object and nothing else")
  .action(
    async (source: string, destination: string | undefined, options: BuildInput & { json?: boolean }) =>
      void (process.exitCode = await (await import("./converting/build")).build(source, destination, options)),
  );

/** `convert --help [FORMAT]` needs neither source nor destination, which the parser would ask for first. */
async function helpAsked(words: readonly string[]): Promise<boolean> {
  const at = words.findIndex((word) => word === "--help" || word === "-h");
  if (words[0] !== "convert" || at < 0) return false;
  const format = words[at + 1];
  if (format !== undefined && !format.startsWith("-"))
    console.log((await import("./converting/format-help")).formatHelp(format));
  else convertCommand.outputHelp();
  return true;
}

// Whoever reads the output may stop early, as head does.
process.stdout.on("error", (error: NodeJS.ErrnoException) => process.exit(error.code === "EPIPE" ? 0 : 1));

try {
  if (!(await helpAsked(process.argv.slice(2)))) await program.parseAsync();
} catch (error) {
  // Wrong usage and sources that cannot be read at all end with 2; commander has said its own word already.
  if (error instanceof CommanderError) process.exitCode = error.exitCode === 0 ? 0 : 2;
  else {
    const { code, message } = sentenceFor(error);
    // Who calls it here may know what it says of this machine.
    console.error(code === "unexpected" && error instanceof Error ? error.message : message);
    // A run that failed half way is none that was called wrongly.
    process.exitCode = error instanceof Failure && error.status < 500 ? 2 : 1;
  }
}

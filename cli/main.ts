import { Command } from "commander";
import { bench } from "@larder/bench/run";
import { shots } from "@larder/e2e/shots";
import { test } from "./checking/test";
import { down, reset, up } from "./running/up";

const root = process.env["LARDER_ROOT"] ?? process.cwd();
const program = new Command("larder").description("Takes labeled images in, keeps them, and sends out frozen, numbered data sets.").showHelpAfterError();

program.command("up").description("starts Larder with its demo data and prints the address").action(() => up(root));
program.command("down").description("stops what up started").action(down);
program.command("reset").description("empties Larder, after asking").option("--yes", "do not ask").action((options: { yes?: boolean }) => reset(options.yes ?? false));
program.command("test").description("runs every unit, integration and browser test").action(() => test(root));
program.command("bench").description("runs the benchmarks, as ratios, in one run").option("--images <n>", "pictures of the intake benchmark", "2000").action((options: { images: string }) => bench(root, Number(options.images)));
program.command("shots").description("takes the PNGs in docs/screenshots from the demo data").action(() => shots(root));

try {
  await program.parseAsync();
} catch (error) {
  console.error(error instanceof Error ? error.message : String(error));
  process.exitCode = 1;
}

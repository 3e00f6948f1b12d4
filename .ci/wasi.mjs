// Runs the tests of a program that was built for wasm32-wasip1, each on its own: a runner for `cargo test`. What needs a temporary
// folder or a thread can't run there, says so, and counts as skipped. Words after the program are names of tests to leave out.
import { fork } from "node:child_process";
import { closeSync, openSync, readFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { WASI } from "node:wasi";

const [program, ...leftOut] = process.argv.slice(2);
const unsupported = /no filesystem on wasm|kind: Unsupported/;

/** Runs the program in this process, once for each list of words that it is sent. */
async function answer() {
  const module = await WebAssembly.compile(readFileSync(program));
  const said = join(tmpdir(), `wasi-${process.pid}.txt`);
  process.on("message", async (words) => {
    const out = openSync(said, "w");
    const options = { version: "preview1", args: [program, ...words], env: process.env, preopens: { "/": "/" } };
    const wasi = new WASI({ ...options, stdout: out, stderr: out, returnOnExit: true });
    let good = false;
    try {
      good = wasi.start(await WebAssembly.instantiate(module, wasi.getImportObject())) === 0;
    } catch (trap) {
      if (!(trap instanceof WebAssembly.RuntimeError)) throw trap;
    }
    closeSync(out);
    process.send({ good, output: readFileSync(said, "utf8") });
  });
}

let child;

/** What another process says of these words. One that dies is a fault of the machine and not of the test: it is tried again. */
async function run(words, tries = 5) {
  child ??= fork(import.meta.filename, [program], { env: { ...process.env, WASI_CHILD: "1" } });
  const result = await new Promise((resolve) => {
    child.once("message", resolve);
    child.once("exit", () => resolve(null));
    child.send(words);
  });
  child.removeAllListeners();
  if (result) return result;
  child = undefined;
  if (tries === 0) return { good: false, output: "node itself died" };
  return run(words, tries - 1);
}

async function main() {
  const list = (await run(["--list", "--format", "terse"])).output.split("\n");
  const tests = list.filter((line) => line.endsWith(": test")).map((line) => line.slice(0, -": test".length));
  const counts = { passed: 0, skipped: 0, failed: 0 };
  for (const test of tests) {
    if (leftOut.some((name) => test.includes(name))) {
      counts.skipped += 1;
      continue;
    }
    const { good, output } = await run(["--exact", test, "--nocapture"]);
    const kind = good ? "passed" : unsupported.test(output) ? "skipped" : "failed";
    counts[kind] += 1;
    if (kind === "failed") console.log(`${test} failed\n${output}`);
  }
  child.disconnect();
  console.log(`on WebAssembly: ${counts.passed} tests passed, ${counts.skipped} skipped, ${counts.failed} failed`);
  process.exitCode = counts.failed > 0 || counts.passed === 0 ? 1 : 0;
}

await (process.env.WASI_CHILD ? answer() : main());

import { soak } from "./soak";

/** `npm run soak`: SOAK_SECONDS of load, twenty minutes where it says nothing else. */

const seconds = Number(process.env.SOAK_SECONDS ?? 1200);
const report = await soak(seconds, 25, (text) => console.log(`• ${text}`));
console.log(JSON.stringify(report, null, 2));
const { wanted, counted, memory } = report;
const problems = [
  ...(wanted.delta === counted.delta ? [] : [`delta: sent ${wanted.delta}, counted ${counted.delta}`]),
  ...(wanted.cumulative === counted.cumulative
    ? []
    : [`cumulative: sent ${wanted.cumulative}, counted ${counted.cumulative}`]),
  ...Object.entries(memory).flatMap(([name, { early, late }]) =>
    late > early * 1.5 + 64 ? [`memory of ${name} grew from ${early} to ${late} MiB`] : [],
  ),
];
for (const problem of problems) console.error(`✗ ${problem}`);
if (problems.length === 0) console.log("✓ every count is there, and memory is flat");
process.exit(problems.length === 0 ? 0 : 1);

// Loaded into a measured process: writes down the most memory it ever held, in bytes.
import { writeFileSync } from 'node:fs';
if (process.env.BENCH_RSS)
  process.on('exit', () => writeFileSync(process.env.BENCH_RSS, String(process.resourceUsage().maxRSS * 1024)));

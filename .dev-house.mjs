import { openDemoHouse } from './tools/parts/demo-house.mjs';
import { startServer } from './tools/parts/serve.mjs';
const house = await openDemoHouse('/tmp/dev-house', { frozen: true, testing: true, port: 4800, past: 8 });
await house.startPanel(4801);
await startServer(house.settingsFile, 4800);

import { join } from 'node:path';
const { openDemoHouse } = await import('/work/main/tools/parts/demo-house.mjs');
const { startServer } = await import('/work/main/tools/parts/serve.mjs');
const house = await openDemoHouse('/tmp/dev-house', { frozen: true, testing: true, port: 4800 });
const panel = await house.startPanel();
const server = await startServer(house.settingsFile, house.settings.port);
console.log('ready', house.settings.port, panel.port);
process.on('SIGTERM', () => { server.kill(); panel.child.kill(); house.cluster.stop(); process.exit(); });
setInterval(() => {}, 1e6);

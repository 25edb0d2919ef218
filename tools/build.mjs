// npm run build [-- web]: what changed of the server and the interface, or of the interface alone.
import { build, checkNode, npmPackages } from './parts/ready.mjs';

checkNode();
await npmPackages();
build({ server: process.argv[2] !== 'web' });

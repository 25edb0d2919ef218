// npm run build
import { build, checkNode, npmPackages } from './parts/ready.mjs';

checkNode();
await npmPackages();
build();

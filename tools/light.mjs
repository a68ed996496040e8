// One thread of the light's build: works out the skies that it is given.
import fs from 'node:fs';
import { parentPort, workerData } from 'node:worker_threads';

const { core, skies, folder } = workerData;
const { computeLight, SKIES, packLight } = await import(core);
for (const name of skies) fs.writeFileSync(`${folder}/${name}.bin`, packLight(computeLight(SKIES[name])));
parentPort?.close();

// The quarry as a program of its own: `quarry --port N [--rate BYTES] [--faults SHARE] [--seed N]`. Port 0 takes a free one.
import type { AddressInfo } from 'node:net';
import { parseArgs } from 'node:util';
import { makeQuarry } from './server';

const { values } = parseArgs({
  options: {
    port: { type: 'string', default: '0' },
    rate: { type: 'string', default: String(2 ** 21) },
    faults: { type: 'string', default: '0.15' },
    seed: { type: 'string', default: '1' },
  },
});
const quarry = makeQuarry({ rate: Number(values.rate), faults: Number(values.faults), seed: Number(values.seed) });
await quarry.listen({ port: Number(values.port), host: '127.0.0.1' });
process.stdout.write(`The quarry is at http://127.0.0.1:${(quarry.server.address() as AddressInfo).port}\n`);
const stop = () => void quarry.close().then(() => process.exit(0));
process.on('SIGINT', stop).on('SIGTERM', stop);
// It goes with whoever started it.
process.on('disconnect', stop);

// The bench: each part prints a table of medians and the ratio that matters.
import { blend } from './blend';
import { frames } from './frames';
import { intake } from './intake';
import { master } from './master';
import { masterPage } from './master-page';
import { pack } from './pack';
import { page } from './page-open';
import { paint } from './paint';
import { section } from './section';
import { surfaces, wall } from './surfaces';

const PARTS: Record<string, () => Promise<void>> = { pack, blend, section, paint, master, masterPage, frames, page, surfaces, wall, intake };
const asked = process.argv.slice(2);
for (const name of asked.length ? asked : Object.keys(PARTS)) await PARTS[name]();

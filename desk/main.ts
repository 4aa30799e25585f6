// `npm run desk`: the upload desk by itself, on the port that SHALE_DESK_PORT says.
import { openDesk } from './desk.ts';

const desk = await openDesk(Number(process.env.SHALE_DESK_PORT ?? 4290));
process.stdout.write(`The upload desk is at ${desk.url}/counters\n`);

import { isBetweenStations } from '@tally/contract';
import type { RequestHandler } from 'express';
import type { Bus } from '../live/bus.js';
import type { Access } from './caller.js';
import { personOf, tokenOf } from './guard.js';

const BEAT_MS = 20_000;

/**
 * Server-sent events (WHATWG HTML, section 9.2): one `data:` line of JSON each, a comment every 20 s to keep it open. It
 * ends with the session by which it was opened: at once when somebody ends that, else at the next beat.
 */
export function liveRoute(bus: Bus, access: Access): RequestHandler {
  return (request, response) => {
    const person = personOf(response);
    const token = tokenOf(request) ?? '';
    response.writeHead(200, { 'Content-Type': 'text/event-stream', 'Cache-Control': 'no-store', 'X-Accel-Buffering': 'no' });
    response.write('retry: 1000\n\n');
    const look = () => {
      // A database that is away ends nothing: the next beat asks again.
      access.isThere(token).then(
        (isThere) => {
          if (!isThere) response.end();
        },
        () => undefined,
      );
    };
    const stop = bus.listen((event) => {
      if (event.type === 'sessions' && event.personId === person.id) look();
      if (!isBetweenStations(event)) response.write(`data: ${JSON.stringify(event)}\n\n`);
    });
    const beat = setInterval(() => {
      response.write(': here\n\n');
      look();
    }, BEAT_MS);
    response.on('close', () => {
      clearInterval(beat);
      stop();
    });
  };
}

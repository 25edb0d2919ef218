import { isBetweenStations } from '@tally/contract';
import type { RequestHandler } from 'express';
import type { Bus } from '../live/bus.js';

/** Server-sent events (WHATWG HTML, section 9.2): one `data:` line of JSON each, a comment every 20 s to keep it open. */
export function liveRoute(bus: Bus): RequestHandler {
  return (_request, response) => {
    response.writeHead(200, { 'Content-Type': 'text/event-stream', 'Cache-Control': 'no-store', 'X-Accel-Buffering': 'no' });
    response.write('retry: 1000\n\n');
    const stop = bus.listen((event) => {
      if (!isBetweenStations(event)) response.write(`data: ${JSON.stringify(event)}\n\n`);
    });
    const beat = setInterval(() => response.write(': here\n\n'), 20_000);
    response.on('close', () => {
      clearInterval(beat);
      stop();
    });
  };
}

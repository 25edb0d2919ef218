/** What live events are told on (PostgreSQL's NOTIFY). */
export const LIVE_CHANNEL = 'tally_live';

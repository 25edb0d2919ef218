import { setTimeout as sleep } from 'node:timers/promises';

/** The queue looks once a second whether its own work has ended, also after it was told to stop: that look must not outlive a test. */
export const queuesAtRest = (): Promise<void> => sleep(2_500);

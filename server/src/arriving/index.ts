/*
 * arriving: a card comes.
 * In: readers, watched folders, hand-ins through a browser.
 * Out: an intake with its items listed, read and recognised, and what it is to do by itself.
 */
export { readAlone } from './read-folder.js';
export { readIntake } from './read-items.js';
export { cardVanished, receiveCard } from './receive.js';
export { arrivingWork } from './work.js';
export { readersCommand } from './readers-command.js';

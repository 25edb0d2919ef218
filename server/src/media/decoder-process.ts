import workerpool from 'workerpool';
import { bothSizes, formatOf, grey, onlyPictures, shrink } from './pixels.js';

/** A process that decodes pictures, within limits of memory and time, and may die of them. */
onlyPictures();
workerpool.worker({ shrink, bothSizes, formatOf, grey });

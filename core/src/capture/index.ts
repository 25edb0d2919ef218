/*
 * capture: when was this taken?
 * In: date fields as text, as a metadata reader found them, and the file's own time.
 * Out: local capture time, its offset if known, its source, and whether to doubt it.
 * Standards: EXIF 2.32 (CIPA DC-008) dates and offsets; ISO/IEC 14496-12 times in UTC; EBU Tech 3285.
 */
export * from './wall-clock.js';
export * from './capture-time.js';
export * from './correction.js';
export * from './true-time.js';
export * from './house-day.js';

/** A backup cannot be made or brought back, in words for whoever asked. */
export class BackupError extends Error {}

/** A tool of PostgreSQL could not do it. */
export class DumpError extends BackupError {}

/** What is sealed could not be opened. */
export class SealError extends BackupError {}

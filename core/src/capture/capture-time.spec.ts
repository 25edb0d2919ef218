import { describe, expect, it } from '@jest/globals';
import { captureTime, dateDoubt, isoCaptureTime, type CaptureFields } from './index.js';

const ZONE = 'Europe/London';
const fileTime = new Date('2026-04-21T10:00:00Z');
const at = (fields: Partial<CaptureFields>) => captureTime({ exifDates: [], fileTime, ...fields }, ZONE);

describe('which date is believed', () => {
  it('metadata with offset comes first', () => {
    const time = at({
      exifDates: [{ text: '2026:04:18 09:12:31', subSeconds: '25', offset: '+01:00' }],
      containerUtc: '2026:04:18 08:00:00',
    });
    expect(time).toEqual({
      local: '2026-04-18T09:12:31.250',
      offsetMinutes: 60,
      source: 'metadata with offset',
      original: '2026:04:18 09:12:31',
    });
    expect(isoCaptureTime(time)).toBe('2026-04-18T09:12:31.250+01:00');
  });

  it('metadata without an offset stays without: nobody knows the camera’s zone', () => {
    const time = at({ exifDates: [{ text: '2026:04:18 09:12:31', offset: '   :  ' }] });
    expect(time.source).toBe('metadata');
    expect(isoCaptureTime(time)).toBe('2026-04-18T09:12:31');
  });

  it('a date that is none is passed over for the next one', () => {
    expect(at({ exifDates: [{ text: '0000:00:00 00:00:00' }, { text: '2026:04:18 10:00:00' }] }).local).toBe(
      '2026-04-18T10:00:00',
    );
  });

  it('a phone’s date with offset goes before its container’s UTC', () => {
    const time = at({ datesWithOffset: ['2024:05:03 17:01:55+02:00'], containerUtc: '2024:05:03 15:01:55' });
    expect(isoCaptureTime(time)).toBe('2024-05-03T17:01:55+02:00');
  });

  // ISO/IEC 14496-12, section 8.2.2 (from memory): creation_time is in UTC.
  it('a clip’s UTC is shown as the house’s local time, summer and winter', () => {
    expect(isoCaptureTime(at({ containerUtc: '2026:07:01 12:00:00' }))).toBe('2026-07-01T13:00:00+01:00');
    expect(isoCaptureTime(at({ containerUtc: '2026:01:01 12:00:00' }))).toBe('2026-01-01T12:00:00+00:00');
  });

  it('a broadcast wave’s local date goes before a container’s', () => {
    expect(at({ localDates: ['2024-05-03 17:01:55'], containerUtc: '2024:05:03 15:01:55' })).toMatchObject({
      local: '2024-05-03T17:01:55',
      source: 'metadata',
    });
  });

  it('the file’s own time is the last resort, and says so', () => {
    expect(at({ containerUtc: '0000:00:00 00:00:00' })).toMatchObject({
      local: '2026-04-21T11:00:00',
      offsetMinutes: 60,
      source: 'file time',
    });
  });
});

describe('dates to doubt', () => {
  const doubt = (local: string, source: 'metadata' | 'file time' = 'metadata') =>
    dateDoubt({ local, source }, '2026-04-21T17:42:00');

  // Common practice, no source: a clock without power starts again on one of these days.
  it.each(['1970-01-01T00:00:00', '1980-01-01T05:00:00', '2000-01-01T00:02:14'])('%s is a camera’s epoch', (local) =>
    expect(doubt(local)).toBe('camera epoch'),
  );

  it('the future is doubtful, a few hours ahead are a zone', () => {
    expect(doubt('2026-04-23T10:00:00')).toBe('in the future');
    expect(doubt('2026-04-22T05:00:00')).toBeNull();
  });

  it('a file time is no date of the picture; metadata of yesterday is fine', () => {
    expect(doubt('2026-04-20T10:00:00', 'file time')).toBe('no date in the file');
    expect(doubt('2026-04-20T10:00:00')).toBeNull();
  });
});

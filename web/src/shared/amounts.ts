import { inject, Pipe, type PipeTransform } from '@angular/core';
import { formatBytes } from '@tally/core/logbook';
import { SessionService } from '../api/session.service';

/** Bytes in decimal units: 4.1 GB. */
@Pipe({ name: 'bytes' })
export class BytesPipe implements PipeTransform {
  transform(bytes: number | null | undefined): string {
    return bytes === null || bytes === undefined ? '' : formatBytes(bytes);
  }
}

/** `1 item`, `3 items`. */
@Pipe({ name: 'count' })
export class CountPipe implements PipeTransform {
  transform(n: number, one: string, many = `${one}s`): string {
    return `${n.toLocaleString()} ${n === 1 ? one : many}`;
  }
}

/** An instant in the house's time zone. */
@Pipe({ name: 'houseTime' })
export class HouseTimePipe implements PipeTransform {
  private readonly session = inject(SessionService);

  transform(instant: string | Date, style: 'time' | 'day' | 'short' | 'full' | 'long' = 'full'): string {
    const options: Record<string, Intl.DateTimeFormatOptions> = {
      time: { hour: '2-digit', minute: '2-digit' },
      day: { day: 'numeric', month: 'short', year: 'numeric' },
      short: { day: 'numeric', month: 'short', year: '2-digit', hour: '2-digit', minute: '2-digit' },
      full: { day: 'numeric', month: 'short', year: 'numeric', hour: '2-digit', minute: '2-digit' },
      long: { weekday: 'long', day: 'numeric', month: 'long', hour: '2-digit', minute: '2-digit' },
    };
    return new Intl.DateTimeFormat('en-GB', { timeZone: this.session.zone(), ...options[style] }).format(new Date(instant));
  }
}

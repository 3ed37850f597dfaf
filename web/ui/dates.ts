import dayjs from 'dayjs';

/** A day, as it is written everywhere: 9 Nov 2026. */
export function dayText(time: string): string {
  return dayjs(time).format('D MMM YYYY');
}

/** A moment, where hours matter: 9 Nov 2026, 14:05 UTC+1. */
export function momentText(time: string): string {
  const moment = dayjs(time);
  const minutes = moment.utcOffset();
  const hours = Math.trunc(Math.abs(minutes) / 60);
  const rest = Math.abs(minutes) % 60;
  const zone =
    minutes === 0
      ? 'UTC'
      : `UTC${minutes < 0 ? '−' : '+'}${hours}${rest === 0 ? '' : `:${String(rest).padStart(2, '0')}`}`;
  return `${moment.format('D MMM YYYY, HH:mm')} ${zone}`;
}

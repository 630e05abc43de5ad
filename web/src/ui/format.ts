/** Thin no-break space between a number and its unit. */
const THIN = "\u202f";

/** A number with a true minus sign. */
export function signed(value: number, decimals: number): string {
  return value
    .toFixed(decimals)
    .replace(/^-(?=.*[1-9])/, "−")
    .replace(/^-/, "");
}

/** With a plus sign where it is positive. */
export const difference = (value: number, decimals: number): string =>
  (value > 0 ? "+" : "") + signed(value, decimals);

/** Half decibels, without a needless ".0". */
export function halves(value: number): string {
  const rounded = Math.round(value * 2) / 2;
  return signed(rounded, Number.isInteger(rounded) ? 0 : 1);
}

/** With as many decimals as it has. */
export const asTyped = (value: number): string => String(value).replace("-", "−");

export const whole = (value: number): string => signed(Math.round(value), 0);

/** Three significant figures, as rates are shown. */
export function significant(value: number): string {
  return signed(value, value >= 99.95 ? 0 : value >= 9.995 ? 1 : 2);
}

/** Two significant figures, for what is predicted and not measured. */
export function rough(value: number): string {
  if (!(value > 0)) return "0";
  const rounded = Number(value.toPrecision(2));
  return signed(rounded, rounded >= 9.95 ? 0 : rounded >= 0.995 ? 1 : 2);
}

export const withUnit = (text: string, unit: string): string => `${text}${THIN}${unit}`;

export const bearing = (degrees: number): string => `${Math.round(degrees) % 360}°${THIN}T`;

export function length(metres: number, units: "metric" | "imperial"): string {
  return units === "imperial" ? withUnit(signed(metres / 0.3048, 0), "ft") : withUnit(signed(metres, 1), "m");
}

export function frequency(mhz: number): string {
  return mhz >= 1000 ? withUnit(signed(mhz / 1000, 1), "GHz") : withUnit(signed(mhz, 0), "MHz");
}

export function megabytes(bytes: number): string {
  return withUnit(significant(bytes / 1e6), "MB");
}

/** A date and time in the site's zone. */
export function moment(iso: string, zone: string): string {
  return new Intl.DateTimeFormat("en-GB", {
    weekday: "short",
    day: "numeric",
    month: "short",
    hour: "2-digit",
    minute: "2-digit",
    timeZone: zone,
  }).format(new Date(iso));
}

export function clock(iso: string, zone: string): string {
  return new Intl.DateTimeFormat("en-GB", {
    hour: "2-digit",
    minute: "2-digit",
    second: "2-digit",
    timeZone: zone,
  }).format(new Date(iso));
}

/** "0.6 s", "42 s", "5 min", "2 h". */
export function age(seconds: number): string {
  if (seconds < 10) return withUnit(signed(Math.max(0, seconds), 1), "s");
  if (seconds < 120) return withUnit(whole(seconds), "s");
  if (seconds < 7200) return withUnit(whole(seconds / 60), "min");
  return withUnit(whole(seconds / 3600), "h");
}

interface Range {
  low: number;
  likely: number;
  high: number;
}

/** "12 to 25", or one number where both ends look alike. */
export function range(value: Range, show: (value: number) => string): string {
  const [low, high] = [show(value.low), show(value.high)];
  return low === high ? low : `${low} to ${high}`;
}

export const counted = (n: number, noun: string): string => `${n} ${noun}${n === 1 ? "" : "s"}`;

/** A gain or a loss, a dash where it is not known. */
export const decibelsOf = (value: number | null | undefined, unit: "dB" | "dBi"): string =>
  value == null ? "–" : withUnit(halves(value), unit);

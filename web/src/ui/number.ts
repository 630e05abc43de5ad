/**
 * A number as typed, with either decimal sign, any kind of minus and, where one is named, its unit at the end; null for
 * nothing, or for what is none.
 */
export function readNumber(text: string, unit?: string): number | null {
  const typed = text.trim();
  const ends = unit !== undefined && typed.toLowerCase().endsWith(unit.toLowerCase());
  const plain = (ends ? typed.slice(0, -unit.length) : typed).trim();
  const value = Number(plain.replace(/[−–]/g, "-").replace(",", "."));
  return plain === "" || !Number.isFinite(value) ? null : value;
}

/** A direction from 0 up to 360: a full turn is north again. */
export const wholeTurn = (degrees: number): number => ((degrees % 360) + 360) % 360;

/** A direction as typed: 360 and 0 are the same one, and what lies beyond is told by the server. */
export const typedAzimuth = (degrees: number | null): number | null => (degrees === 360 ? 0 : degrees);

/** A number as typed, with either decimal sign and any kind of minus; null for nothing, or for what is none. */
export function readNumber(text: string): number | null {
  const value = Number(text.trim().replace(/[−–]/g, "-").replace(",", "."));
  return text.trim() === "" || !Number.isFinite(value) ? null : value;
}

/** What was typed and not saved yet, kept in this browser under a form's name. */
const place = (key: string) => `draft:${key}`;

export function keptDraft<T>(key: string): T | undefined {
  try {
    const text = localStorage.getItem(place(key));
    return text === null ? undefined : (JSON.parse(text) as T);
  } catch {
    return undefined;
  }
}

export function keepDraft(key: string, value: unknown): void {
  try {
    localStorage.setItem(place(key), JSON.stringify(value));
  } catch {
    // Without storage the draft lives as long as the page.
  }
}

export const forgetDraft = (key: string): void => localStorage.removeItem(place(key));

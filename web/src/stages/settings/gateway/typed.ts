import { useState } from "react";

/** Lines in a text area: the text stands as it is typed, its lines go where they belong. */
export function useTypedLines(lines: string[], onChange: (lines: string[]) => void) {
  const [typed, setTyped] = useState<string>();
  const read = (text: string) =>
    text
      .split("\n")
      .map((line) => line.trim())
      .filter(Boolean);
  const stored = lines.join("\n");
  return {
    value: typed !== undefined && read(typed).join("\n") === stored ? typed : stored,
    onChange: (text: string) => {
      setTyped(text);
      onChange(read(text));
    },
  };
}

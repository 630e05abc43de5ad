import type { ComponentProps } from "react";

type Look = "filled" | "outlined" | "plain";

const LOOKS: Record<Look, string> = {
  filled: "bg-action text-on-action font-semibold px-5 border border-action",
  outlined: "bg-surface text-ink font-semibold px-4 border border-edge hover:border-ink",
  plain:
    "text-action font-semibold px-1 underline decoration-transparent hover:decoration-current underline-offset-4",
};

/** The classes of a button, also for links that look like one. */
export function buttonClass(look: Look, extra = ""): string {
  return `inline-flex items-center justify-center gap-2 rounded-xl min-h-11 py-2 text-base leading-tight disabled:opacity-55 ${LOOKS[look]} ${extra}`;
}

export function Button({
  look = "outlined",
  className = "",
  ...rest
}: ComponentProps<"button"> & { look?: Look }) {
  return <button type="button" {...rest} className={buttonClass(look, className)} />;
}

import clsx from "clsx";
import type { ButtonHTMLAttributes } from "react";

type Look = "plain" | "main" | "quiet";

export function Button({ look = "plain", className, ...rest }: ButtonHTMLAttributes<HTMLButtonElement> & { look?: Look }) {
  return (
    <button
      type="button"
      {...rest}
      className={clsx(
        "inline-flex min-h-11 items-center justify-center gap-2 px-3 text-[15px] font-medium disabled:opacity-45",
        look === "plain" && "border border-line bg-sheet hover:bg-zinc",
        look === "main" && "border border-ink bg-ink text-sheet hover:opacity-90",
        look === "quiet" && "min-w-11 hover:bg-zinc",
        className,
      )}
    />
  );
}

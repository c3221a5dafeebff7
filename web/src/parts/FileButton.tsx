// A button that asks for a file and hands it over; the same file can be chosen again.
import { FileUp } from "lucide-react";
import { useRef } from "react";
import { Button } from "./Button";

export function FileButton({ text, label, accept, onFile }: { text: string; label: string; accept: string; onFile: (file: File) => void }) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <Button onClick={() => input.current?.click()}>
        <FileUp size={18} /> {text}
      </Button>
      <input
        ref={input}
        type="file"
        accept={accept}
        className="hidden"
        aria-label={label}
        onChange={(event) => {
          const chosen = event.target.files?.[0];
          if (chosen) onFile(chosen);
          event.target.value = "";
        }}
      />
    </>
  );
}

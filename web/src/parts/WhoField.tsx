// Who is at work: asked once, remembered in this browser, in every entry of the record from then on.
import { useState } from "react";
import { rememberWho, whoIsIt } from "../api/record";
import { TextField } from "./Labelled";

export function WhoField({ label }: { label: string }) {
  const [who, setWho] = useState(whoIsIt);
  return (
    <TextField
      label={label}
      value={who}
      onCommit={(name) => {
        setWho(name);
        rememberWho(name);
      }}
    />
  );
}

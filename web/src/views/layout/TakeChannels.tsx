// Channels from a table, as the survey sheet or another program gives them.
import { FileButton } from "../../parts/FileButton";
import { usePlan } from "../../parts/plan";

export function TakeChannels() {
  const { edit } = usePlan();
  return <FileButton text="Take channels from CSV" label="CSV file of channels" accept=".csv,text/csv,text/plain" onFile={(file) => void file.text().then((csv) => edit([{ op: "take_channels", csv }]))} />;
}

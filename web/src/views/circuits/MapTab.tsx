// The whole system from left to right.
import { Picture } from "../../parts/Picture";

export function MapTab() {
  return <Picture kind="map" />;
}

import type { Passage } from "../../api/schema";

/** Names of the Kit stage's values, as the server's document has them. */
export type {
  AntennaKind,
  CableKind,
  GatewayPlace,
  Gender,
  Limit,
  Locking,
  PartKind,
  Polarisation,
  PortSwitch,
  PowerKind,
  Series,
  Severity,
  UseKind,
} from "../../api/schema";

export type PassageWay = Passage["way"];

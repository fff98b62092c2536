export type {
  CheckKind,
  ComponentKind,
  DebrisClass,
  DebrisKnowledge,
  DebrisPart,
  FaultClass,
  Intrusiveness,
  Knowledge,
  LikelihoodRow,
  LikelihoodTable,
  Relation,
  RepairKind,
  Rung,
  RungForm,
} from "./knowledge.ts";
export { checkKnowledge, INTRUSIVENESS } from "./knowledge.ts";

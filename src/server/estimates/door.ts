/** What other stations may ask of estimates and do there: what a payer is expected to pay. Nothing else of it is known to them. */
export { expectWriteOffs, noteContract, takeExpectedBack } from './expected';
export {
  type CaseCoverage,
  type CaseDay,
  caseDay,
  estimateCoverages,
  estimateEach,
  estimateOpen,
  type PlannedEstimate,
  estimatePlanned,
  inFacility,
  limitDoubts,
  usesExpected,
} from './read';

/** What other stations may ask of accounts and do there: people, their coverage, charges and ledger. Nothing else of it is known to them. */
export { chargeAccount } from './charges';
export { enteredOnly } from './entered';
export { collectToday } from './collect';
export { readVisit } from './visits';
export { aboveEstimates, isUnseen } from './above';
export { knownDiagnoses, serviceDoubts, serviceOf, taxAt, writeCharges } from './services';
export { type ConfidentialAddress, readConfidential } from './confidential';
export { follow } from './follow';
export { bearsLateCharges, householdsOf, sparedBy } from './late-charges';
export { type ToldCharge, asStory, readCharges, readChargesOf } from './ledger';
export { readMembers } from './members';
export { readReceipts } from './receipts';
export { readAccountLetters, readMailedWith, readStatements } from './sent';
export { type AccountStop, readStops, setStop, stopped } from './stops';

/** What other stations may ask of claims and do there: how a claim stands, and what the outside says of it. Nothing else of it is known to them. */
export { apply277CA, apply999, applyTa1 } from './answers';
export { byUser, isReplaced, moveClaims, settledStatus, statusAsDecided } from './life';
export { freeLeftOut } from './correct';
export { finishVoid } from './replace';
export { tellNextPayers } from './stale';

/** What other stations may ask of overdue and do there: letters, agencies, and the policy of what is overdue. Nothing else of it is known to them. */
export { writeAgencyFiles } from './agency-files';
export { bookAgencyPayment, payPlacement, placedOf } from './agency-money';
export { agencyLinesDocument, placementsOfAgency } from './agency-statement';
export { composeLetters, draftSomeLetters, letterAgainst, lettersDue, makeLetter } from './letter-drafts';
export { endPlacement, lockPlacement, notePlacement } from './placements';
export { readOverduePolicy } from './policy';

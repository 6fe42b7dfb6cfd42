/** What other stations may ask of remittances and do there: what payers said. Nothing else of it is known to them. */
export { FOLLOW_UP_DAYS, OURS, bringBackSettled } from './raise';
export { receiveRemittances } from './receive';

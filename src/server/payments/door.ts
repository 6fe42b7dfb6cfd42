/** What other stations may ask of payments and do there: what a gateway says of receipts that went by e-mail. Nothing else of it is known to them. */
export { noteMessage, receiptsOfMessages } from './receipt-mail';

/** What other stations may ask of plans and do there: payment plans: what runs, what a receipt pays on them. Nothing else of it is known to them. */
export { type PlanPayment, payFromReceipt } from './books';
export { plansOf, readPlans } from './read';

/** What other stations may ask of statements and do there: what a statement would say, and of whom. Nothing else of it is known to them. */
export { type Weighed, weighHouseholds } from './choosing';
export { type AskedStatement, readContents } from './content';
export { readFacts } from './facts';
export { draftColumns } from './prepare';

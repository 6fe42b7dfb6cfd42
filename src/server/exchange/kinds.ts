/** The kinds of files that come in. */
import type { FileKind } from './kind';
import { agencyAnswers, agencyStatements } from './agency-answers';
import { mailAnswers } from './mail-answers';
import { payerLists } from './payer-list';
import { x12Answers } from './x12-answers';

/** Every kind, the first that recognizes a file takes it; the last one says of any other what is wrong with it. */
export const FILE_KINDS: readonly FileKind[] = [
  mailAnswers,
  agencyAnswers,
  agencyStatements,
  payerLists,
  x12Answers,
];

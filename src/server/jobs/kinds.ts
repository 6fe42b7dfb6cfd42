/** Every kind of background work. */
import { postRemittances } from '../remittances/posting';
import { eveningClaims } from '../claims/evening';
import { checkClaims } from '../claims/recheck';
import { sendReady } from '../claims/sending';
import { draftBatch } from '../batches/drafting';
import { sendBatch } from '../batches/sending';

/** The kinds, by name. */
export const WORK_KINDS = {
  'post remittances': postRemittances,
  'check claims': checkClaims,
  'send claims': sendReady,
  'claims of the evening': eveningClaims,
  'draft batch': draftBatch,
  'send batch': sendBatch,
} as const;

/** Name of a kind of work. */
export type WorkKindName = keyof typeof WORK_KINDS;
/** What a kind of work is asked to do. */
export type WorkInput<Name extends WorkKindName> = Parameters<(typeof WORK_KINDS)[Name]['items']>[1];

/** Names of all kinds. */
export const WORK_KIND_NAMES = Object.keys(WORK_KINDS) as WorkKindName[];
/** Whether a text names a kind of work. */
export const isWorkKind = (name: string): name is WorkKindName => Object.hasOwn(WORK_KINDS, name);

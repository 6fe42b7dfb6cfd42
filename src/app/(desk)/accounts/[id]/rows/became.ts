import { DELIVERIES, OUTCOMES } from '../../../../../core/mail/pieces';

/** What became of a piece of mail, in words. */
export const becameOf = (piece: {
  voided: string | null;
  delivery: keyof typeof DELIVERIES;
  outcome: '' | keyof typeof OUTCOMES;
}): string =>
  piece.voided === null
    ? [DELIVERIES[piece.delivery], piece.outcome && OUTCOMES[piece.outcome]].filter(Boolean).join(' · ')
    : `not sent after all: ${piece.voided}`;

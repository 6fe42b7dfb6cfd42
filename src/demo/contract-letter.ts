/** A payer that allowed less than its contract says was asked for it by letter, of what was done until two months ago. */
import { type CalendarDate, addDays } from '../core/calendar';
import { readContractCheck } from '../server/remittances/contract-check';
import { writeContractLetter } from '../server/remittances/contract-letters';
import type { On } from './diary';

/** Writes the letter, three weeks ago. */
export async function contractLetter(on: On, today: CalendarDate): Promise<void> {
  const day = addDays(today, -21);
  const biller = on(day, 'biller');
  const { payers } = await readContractCheck(biller, { to: addDays(today, -60) });
  const [most] = payers;
  if (!most) return;
  await writeContractLetter(biller, {
    payerId: most.payerId,
    lines: most.groups.flatMap(({ lines }) =>
      lines.map(({ chargeId, coverageId }) => ({ chargeId, coverageId })),
    ),
    key: 'demo contract letter',
  });
}

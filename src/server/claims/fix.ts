/** Putting right what a claim says, where it comes from. */
import { type Context, Refused, allow, audit } from '../access';
import { chargeInput } from '../accounts/charges';
import { parseInput } from '../accounts/register';
import { OURS, refreshClaim } from './build';

/** What can still be put right on a charge before its claim is sent. */
const chargeFix = chargeInput.pick({ diagnoses: true, modifiers: true, tooth: true, surfaces: true });

/** Changes what a claim says about a charge; refused once the claim is with the payer. The fee is changed by voiding and entering anew. */
export async function changeCharge(context: Context, chargeId: number, input: unknown): Promise<void> {
  allow(context, 'enter charges');
  const data = parseInput(chargeFix, input);
  await context.db.transaction().execute(async (tx) => {
    const line = await tx
      .selectFrom('claim_line as l')
      .innerJoin('claim as m', 'm.id', 'l.claim_id')
      .select(['m.id', 'm.status', 'm.control_number'])
      .where('l.charge_id', '=', chargeId)
      .where('l.current', '=', true)
      .forNoKeyUpdate()
      .executeTakeFirst();
    if (line && !(OURS as readonly string[]).includes(line.status))
      throw new Refused(`Claim ${line.control_number} is with the payer already`);
    for (const code of data.diagnoses) {
      const found = await tx
        .selectFrom('diagnosis')
        .select('code')
        .where('code', '=', code)
        .executeTakeFirst();
      if (!found) throw new Refused(`Diagnosis ${code} is not in the list`, 'diagnoses');
    }
    const done = await tx
      .updateTable('charge')
      .set({
        diagnoses: data.diagnoses,
        modifiers: data.modifiers,
        tooth: data.tooth,
        surfaces: data.surfaces,
      })
      .where('id', '=', chargeId)
      .where('status', '=', 'done')
      .executeTakeFirst();
    if (done.numUpdatedRows === 0n) throw new Refused('There is no such charge');
    if (line) await refreshClaim(tx, context, line.id);
    await audit(tx, context, 'changed', { kind: 'charge', id: chargeId }, data);
  });
}

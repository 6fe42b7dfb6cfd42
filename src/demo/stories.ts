/**
 * Households whose visits lead to a plan, to an agency and to a reduction for hardship; of two of them the insurer takes its word
 * back and says it anew, with the plan and with the agency in between.
 */
import { Readable } from 'node:stream';
import { sql } from 'kysely';
import Document from 'pdfkit';
import { addDays, addMonths, calendarDate } from '../core/calendar';
import { raised } from '../core/fees/raise';
import { toDecimal } from '../core/money';
import type { Context } from '../server/access';
import { dischargeCase, openCase } from '../server/accounts/cases';
import { addAuthorization } from '../server/accounts/authorizations';
import { enterCharge } from '../server/accounts/charges';
import { addCoverage } from '../server/accounts/coverage';
import { exhaustCoverage } from '../server/accounts/exhausted';
import { askHardship, decideHardship } from '../server/overdue/hardship';
import { addMember } from '../server/accounts/register';
import { addOption, giveEstimate, signEstimate } from '../server/accounts/treatment';
import { changeFees } from '../server/fees/change';
import { readSchedule } from '../server/fees/read';
import { addNote } from '../server/notes/notes';
import { takeReceipt } from '../server/payments/take';
import { acceptPlan, proposePlan } from '../server/plans/agree';
import { saveSetup } from '../server/setup/save';
import { readPlans } from '../server/plans/read';
import type { At, On } from './diary';
import type { Person } from './households';

/** The case of a car accident of a person. */
async function accidentOf({ db }: Context, patientId: number): Promise<number> {
  const cases = db.selectFrom('care_case').select('id').where('patient_id', '=', patientId);
  return (await cases.where('kind', '=', 'car').executeTakeFirstOrThrow()).id;
}

/** The only coverage of a case. */
async function coverageOf({ db }: Context, caseId: number): Promise<number> {
  const coverages = db.selectFrom('coverage').select('id').where('case_id', '=', caseId);
  return (await coverages.executeTakeFirstOrThrow()).id;
}

/** A letter of a payer as it is kept, of one line. */
async function letterOf(words: string): Promise<Uint8Array<ArrayBuffer>> {
  const paper = new Document({ size: 'LETTER' });
  paper.text(words).end();
  return new Uint8Array(await new Response(Readable.toWeb(paper) as ReadableStream).arrayBuffer());
}

/** Notes what happens in these stories. @param named the head of a household of the scenario */
export function storiesHappen(
  at: At,
  on: On,
  named: (last: string) => Person,
  providers: Record<string, number>,
  insurancePlans: Record<string, number>,
): void {
  const visit = (
    ago: number,
    last: string,
    provider: string,
    diagnoses: string[],
    services: { code: string; tooth?: string }[],
  ): void =>
    at(ago, async (day) => {
      for (const [at, { code, tooth = '' }] of services.entries())
        await enterCharge(on(day), {
          patientId: named(last).patientId,
          providerId: providers[provider],
          serviceDate: day,
          code,
          tooth,
          diagnoses,
          key: `demo story ${last} ${ago} ${at}`,
        });
    });
  // A car accident beside the standing case, with an insurer of its own; an earlier therapy is closed.
  at(410, async (day) => {
    const caseId = await openCase(on(day, 'front-desk'), {
      patientId: named('Beaumont').patientId,
      name: 'Shoulder therapy',
      kind: 'therapy',
      onsetDate: addDays(day, -20),
      providerId: providers['therapy']!,
      cameBy: 'Referring practice',
      cameByNote: 'Harbor Street Orthopedics',
      key: 'demo shoulder',
    });
    await dischargeCase(on(addDays(day, 60), 'front-desk'), {
      caseId,
      on: addDays(day, 60),
      why: 'Goals reached',
    });
  });
  at(33, async (day) => {
    const desk = on(day, 'front-desk');
    const { patientId } = named('Beaumont');
    const caseId = await openCase(desk, {
      patientId,
      name: 'Rear-end collision',
      kind: 'car',
      accidentDate: addDays(day, -4),
      accidentState: 'WA',
      firstTreatedDate: day,
      disabledFrom: addDays(day, -4),
      diagnoses: [{ code: 'M54.50', since: addDays(day, -4), until: '' }],
      providerId: providers['therapy']!,
      cameBy: 'Word of mouth',
      limits: 'cannot sit for more than 20 minutes',
      services: [{ code: '97110', fee: '72.00', minutes: 30 }],
      statements: false,
      key: 'demo collision',
    });
    await addCoverage(desk, {
      patientId,
      caseId,
      insurancePlanId: insurancePlans['IW']!,
      memberId: 'IW77344101',
      claimNumber: 'AC-2026-00318',
      adjuster: 'Dana Whitfield, 555-0191',
      key: 'demo collision coverage',
    });
    const coverageId = await coverageOf(desk, caseId);
    await addAuthorization(desk, {
      caseId,
      coverageId,
      kind: 'prior-authorization',
      state: 'approved',
      number: 'IC-20931',
      askedOn: day,
      answeredOn: day,
      validFrom: day,
      validTo: addDays(day, 180),
      codes: ['97110', '97140', '97530'],
      visits: '12',
      units: '',
      key: 'demo collision allowed',
    });
  });
  // What is met with the insurer of the accident, and with the one who had it.
  at(32, async (day) => {
    const desk = on(day);
    const { id: payerId } = await desk.db
      .selectFrom('payer')
      .select('id')
      .where('name', '=', 'Ironwood Casualty')
      .executeTakeFirstOrThrow();
    await addNote(desk, {
      payerId,
      words: 'Send records before the claim',
      pinned: true,
      key: 'demo notice of a payer',
    });
  });
  for (const ago of [33, 26, 19, 5])
    at(ago, async (day) => {
      const { patientId } = named('Beaumont');
      const desk = on(day);
      const caseId = await accidentOf(desk, patientId);
      await enterCharge(desk, {
        patientId,
        caseId,
        providerId: providers['therapy']!,
        serviceDate: day,
        code: '97110',
        units: 2,
        diagnoses: ['M54.50'],
        key: `demo collision ${ago}`,
      });
    });
  // From here on the write-offs of one plan count on the day of service, and charges under another one stand at its contracted fee.
  at(75, async (day) => {
    for (const [group, values] of [
      ['TD-5', { write_offs_count: 'service' }],
      ['NL-A10', { charges_at: 'contract' }],
    ] as const)
      await saveSetup(on(day, 'manager'), { table: 'plans', row: String(insurancePlans[group]), values });
  });
  // From the next quarter on the office asks for more, and so much more is agreed with one payer.
  at(12, async (day) => {
    const context = on(day, 'manager');
    const from = addMonths(calendarDate(`${day.slice(0, 7)}-01`), 4);
    for (const [name, share] of [
      ['Office fees', 350],
      ['Northlight Mutual contract', 200],
    ] as const) {
      const { id } = await context.db
        .selectFrom('fee_schedule')
        .select('id')
        .where('name', '=', name)
        .executeTakeFirstOrThrow();
      const { fees } = await readSchedule(context, id, day);
      await changeFees(context, {
        scheduleId: id,
        from,
        lines: fees.flatMap(({ code, amount }) =>
          amount === null
            ? []
            : [
                {
                  code,
                  amount: toDecimal(raised(amount, { share, rounding: '5', way: 'nearest' })),
                  was: amount,
                },
              ],
        ),
        words: `raised by ${share / 100} %`,
        key: `demo fees of ${name}`,
      });
    }
  });
  // What is planned is handed over in writing and signed; another way of treating stands beside it.
  at(1, async (day) => {
    const desk = on(day);
    const planned = await desk.db
      .selectFrom('charge')
      .select(['case_id as caseId'])
      .where('status', '=', 'planned')
      .where('case_id', 'is not', null)
      .groupBy('case_id')
      .orderBy((eb) => eb.fn.countAll(), 'desc')
      .orderBy('case_id')
      .executeTakeFirstOrThrow();
    const caseId = planned.caseId!;
    const estimateId = await giveEstimate(desk, {
      caseId,
      validUntil: addDays(day, 90),
      key: 'demo estimate',
    });
    await signEstimate(desk, { estimateId, on: day, by: 'the patient' });
    await addOption(desk, { caseId, name: 'Filling instead of a crown' });
  });
  // The insurer of the accident says in a letter that nothing is left; the one of the standing case is asked from then on.
  at(3, async (day) => {
    const desk = on(day, 'front-desk');
    const { patientId } = named('Beaumont');
    const caseId = await accidentOf(desk, patientId);
    const coverageId = await coverageOf(desk, caseId);
    await addCoverage(desk, {
      patientId,
      caseId,
      insurancePlanId: insurancePlans['CS-350']!,
      position: 2,
      memberId: 'CSH8814020',
      key: 'demo collision second',
    });
    await exhaustCoverage(desk, {
      coverageId,
      from: day,
      letter: await letterOf(`Claim AC-2026-00318: benefits were used up on ${day}.`),
    });
  });
  // A child whose parents are no patients here: two policies, in another order than the usual one.
  at(60, async (day) => {
    const desk = on(day, 'front-desk');
    const { householdId } = named('Iversen');
    const { patientId } = await addMember(desk, {
      householdId,
      last: 'Iversen',
      first: 'Juni',
      birthDate: '2019-08-09',
      sex: 'F',
      key: 'demo child of two',
      sure: true,
    });
    const parents = [
      { first: 'Marek', birthDate: '1984-10-21', group: 'NL-A10', memberId: 'NL55120931' },
      { first: 'Sunniva', birthDate: '1986-02-03', group: 'CS-200', memberId: 'CSH5512094' },
    ];
    for (const [index, { first, birthDate, group, memberId }] of parents.entries())
      await addCoverage(desk, {
        patientId,
        insurancePlanId: insurancePlans[group]!,
        position: index + 1,
        memberId,
        relationship: 'child',
        holderLast: 'Iversen',
        holderFirst: first,
        holderBirthDate: birthDate,
        basis: 'employed',
        key: `demo child of two ${group}`,
      });
  });
  // A crown on a plan; after it was agreed the insurer pays more, so that its last installments ask for less.
  visit(
    262,
    'Vesterholm',
    'dental',
    ['K02.9'],
    [
      { code: 'D2740', tooth: '3' },
      { code: 'D2950', tooth: '3' },
    ],
  );
  at(222, async (day) => {
    const { householdId } = named('Vesterholm');
    const then = on(day, 'manager');
    const planId = await proposePlan(then, {
      householdId,
      installments: 12,
      first: addMonths(day, 1),
      key: 'demo plan of a crown',
    });
    await acceptPlan(then, { planId, signedBy: 'Greta Vesterholm' });
  });
  for (const ago of [190, 160, 130, 100, 70, 40, 9])
    at(ago, async (day) => {
      const { householdId } = named('Vesterholm');
      const desk = on(day, 'front-desk');
      const [plan] = await readPlans(desk, sql`l.household_id = ${householdId} and l.status = 'accepted'`);
      if (!plan || plan.due <= 0) return;
      const amount = toDecimal(plan.due);
      await takeReceipt(desk, {
        householdId,
        tenders: [{ tender: 'check', amount, reference: String(5200 + ago) }],

        plans: { [plan.id]: amount },
        key: `demo crown ${ago}`,
      });
    });
  // Visits that nobody pays: the agency has them when the insurer says that it pays less.
  for (const ago of [300, 272, 258, 244])
    visit(
      ago,
      'Marlowe',
      'family',
      ['I10', 'E78.5'],
      [{ code: '99214' }, { code: '36415' }, { code: '80053' }],
    );
  // A deductible that somebody cannot pay.
  for (const ago of [214, 187, 164])
    visit(ago, 'Pemberton', 'family2', ['E11.9'], [{ code: '99214' }, { code: '80053' }]);
  at(43, async (day) => {
    const hardshipId = await askHardship(on(day, 'collector'), {
      householdId: named('Pemberton').householdId,
      size: 2,
      income: '24800.00',
      evidence: 'benefit letter of this year',
      key: 'demo hardship given',
    });
    await decideHardship(on(day, 'manager'), {
      hardshipId,
      approve: true,
      why: 'as the table says',
      sure: true,
    });
  });
  at(2, async (day) =>
    askHardship(on(day, 'collector'), {
      householdId: named('Achterberg').householdId,
      size: 3,
      income: '34500.00',
      evidence: 'tax return of last year',
      key: 'demo hardship',
    }),
  );
}

/** What to ask for at the front today, person by person: what is owed, and what today's services are expected to leave to them. */
import { sql } from 'kysely';
import { BILL_PATIENT_WHY, type BillPatientWhy } from '../../core/accounts/bill-patient';
import { narrowestOf } from '../../core/estimates/rules';
import { type Cents, ZERO, add, least, minus, most, sum } from '../../core/money';
import { type Context, allow } from '../access';
import { benefitsOf, coverageDay } from '../books/benefits';
import { readOwed } from '../books/owed';
import { allowOpen } from '../closed';
import { estimateOpen, estimatePlanned } from '../estimates/door';

/** What to ask one person for. Amounts in cents. */
export interface Collect {
  patientId: number;
  name: string;
  parts: { words: string; amount: Cents }[];
  total: Cents;
  /** Why nothing may be asked for, or less; empty where nothing forbids it. */
  why: string;
}

interface Row {
  patientId: number;
  name: string;
  coverageId: number | null;
  payer: string;
  billPatient: 'yes' | 'copay-only' | 'never';
  why: BillPatientWhy | '';
  /** The kind of service of the last visit, by which the copay of a visit is guessed. */
  category: string | null;
  planned: number[];
  caseId: number;
  /** Services of a visit that is expected today, with their office fees, as the program that plans visits tells them. */
  expected: { code: string; fee: Cents; siteId: number | null }[];
  reserved: Cents;
}

/**
 * What to ask the members of a household for today. Whom a coverage spares is asked for nothing, or for the copay alone; what is owed is
 * what the books say, less the credit that stands against it. What is on account beyond that, such as a copay that was paid already, is
 * not asked for again.
 * @param caseId the case one of them comes for; of the others it is the standing one
 */
export async function collectToday(
  context: Context,
  householdId: number,
  caseId: number | null = null,
): Promise<Collect[]> {
  allow(context, 'read accounts');
  await allowOpen(context, { householdId });
  const { db, today } = context;
  const { rows } = await sql<Row>`
    select p.id as "patientId", p.first || ' ' || p.last as name, o.id as "coverageId", coalesce(y.name, '') as payer,
      coalesce(o.bill_patient, 'yes') as "billPatient", coalesce(o.bill_patient_why, '') as why,
      (
        select s.category
        from charge c
          join service_code s on s.code = c.code
        where c.case_id = k.id and c.status = 'done'
        order by c.service_date desc, c.id
        limit 1
      ) as category,
      coalesce(
        (
          select json_agg(c.id)
          from charge c
          where c.household_id = p.household_id
            and c.patient_id = p.id
            and c.status = 'planned'
            and c.service_date = ${today}
        ),
        '[]'
      ) as planned,
      k.id as "caseId",
      -- Of a visit that is expected and not charged yet; where one of its services is not known to us, none is guessed at.
      coalesce(
        (
          select case when bool_and(s.code is not null) then
            json_agg(json_build_object(
              'code', x.code, 'fee', coalesce(fee_on(office_schedule(v.location_id), x.code, ${today}::date), 0),
              'siteId', v.location_id
            ) order by v.id, x.place)
          end
          from expected_visit v
            cross join lateral unnest(v.codes) with ordinality x (code, place)
            left join service_code s on s.code = x.code
          where v.patient_id = p.id
            and v.day = ${today}::date
            and v.canceled_on is null
            and not exists (
              select from charge c where c.patient_id = p.id and c.service_date = v.day and c.status = 'done'
            )
        ),
        '[]'
      ) as expected,
      -- What was taken for a visit of today is not asked for again.
      coalesce(
        (
          select sum(g.held)
          from expected_visit v
            join receipt r on r.expected_visit_id = v.id
            join receipt_balance g on g.receipt_id = r.id
          where v.patient_id = p.id and v.day = ${today}::date and v.freed_on is null
        ), 0
      )::bigint as reserved
    from patient p
      join lateral (
        select x.id
        from care_case x
        where x.patient_id = p.id and (x.standing or x.id = ${caseId}::bigint)
        order by x.standing
        limit 1
      ) k on true
      left join covered o on o.id = coverage_on(k.id, 1, ${today}::date)
      left join payer y on y.id = o.payer_id
    where p.household_id = ${householdId} and p.merged_into is null
    order by p.birth_date, p.id`.execute(db);
  const covered = rows.flatMap(({ coverageId }) => (coverageId === null ? [] : [{ coverageId, day: today }]));
  const [owed, benefits, estimates, ofVisits] = await Promise.all([
    readOwed(context, [householdId]),
    benefitsOf(db, covered),
    estimatePlanned(
      context,
      rows.flatMap(({ planned }) => planned),
    ),
    Promise.all(rows.map((row) => (row.planned.length === 0 ? ofVisit(context, row) : ZERO))),
  ]);
  const owedBy = (patientId: number | null): Cents =>
    sum(
      owed
        .flatMap(({ charges }) => charges)
        .filter((charge) => (charge.patientId ?? null) === patientId)
        .map((charge) => most(ZERO, minus(charge.owed, charge.credit))),
    );
  // What is on account and stands against nothing that is owed, by whose address it is.
  const free = new Map(
    owed.map(({ patientId, credit, charges }) => [
      patientId,
      minus(credit, sum(charges.map((charge) => charge.credit))),
    ]),
  );
  /** Takes of it what is there, at most so much. */
  const takeFree = (patientId: number, wanted: Cents): Cents => {
    const whose = free.has(patientId) ? patientId : null;
    const taken = least(wanted, free.get(whose) ?? ZERO);
    free.set(whose, minus(free.get(whose) ?? ZERO, taken));
    return taken;
  };
  const people = rows.map((row, at): Collect => {
    const rules =
      row.coverageId === null
        ? []
        : benefits.get(coverageDay({ coverageId: row.coverageId, day: today }))!.rules;
    const [copay] = narrowestOf(rules, 'copay', { code: '', category: row.category ?? '' });
    const planned = sum(row.planned.map((id) => estimates.get(id)?.patient ?? ZERO));
    const forbidden = row.why === '' ? '' : `${BILL_PATIENT_WHY[row.why]}, ${row.payer}`;
    const parts: Collect['parts'] = [];
    if (row.billPatient !== 'never') {
      const visit = copay?.amount ?? ZERO;
      if (row.planned.length > 0)
        parts.push({
          words: 'planned services of today',
          amount: row.billPatient === 'copay-only' ? least(planned, visit) : planned,
        });
      else if (row.expected.length > 0)
        parts.push({
          words: 'the visit, by its planned services',
          amount: row.billPatient === 'copay-only' ? least(ofVisits[at]!, visit) : ofVisits[at]!,
        });
      else if (visit > 0) parts.push({ words: 'copay of a visit', amount: visit });
      const asks = sum(parts.map(({ amount }) => amount));
      const before = least(asks, row.reserved);
      const paid = add(before, takeFree(row.patientId, minus(asks, before)));
      if (paid > 0) parts.push({ words: 'on account already', amount: minus(ZERO, paid) });
      parts.push({ words: 'owed', amount: owedBy(row.patientId) });
    }
    const asked = parts.filter(({ amount }) => amount !== 0);
    return {
      patientId: row.patientId,
      name: row.name,
      parts: asked,
      total: sum(asked.map(({ amount }) => amount)),
      why:
        row.billPatient === 'never'
          ? `nothing: ${forbidden}`
          : row.billPatient === 'copay-only'
            ? `of services the copay alone: ${forbidden}`
            : '',
    };
  });
  // What is on the account and nobody's, such as interest.
  const nobodys = owedBy(null);
  return nobodys > 0
    ? [
        ...people,
        {
          patientId: 0,
          name: 'On the account',
          parts: [{ words: 'owed', amount: nobodys }],
          total: nobodys,
          why: '',
        },
      ]
    : people;
}

/** What the services of a visit that is expected today leave to its patient, beside what is undecided of the case. */
async function ofVisit(context: Context, { caseId, expected }: Row): Promise<Cents> {
  if (expected.length === 0) return ZERO;
  const estimates = await estimateOpen(
    context,
    caseId,
    expected.map((service) => ({ ...service, units: 1, date: context.today })),
  );
  return sum(estimates.filter(({ id }) => id <= 0).map(({ patient }) => patient));
}

/** Rules about the patient and the coverage. */
import { type Rule, perLine, when } from './rule';
import { STATES } from './states';

const zipOk = (zip: string): boolean => /^\d{5}(-?\d{4})?$/.test(zip);

/** Rules about people, in the order in which findings are shown. */
export const PEOPLE_RULES: readonly Rule[] = [
  {
    id: 'patient-name',
    severity: 'stop',
    place: 'patient',
    field: 'name',
    reference: '2010BA/2010CA NM103, NM104',
    title: 'The patient has a first and last name',
    check: (c) => when(!c.patient.last || !c.patient.first, 'The patient’s first or last name is missing'),
  },
  {
    id: 'name-length',
    severity: 'stop',
    place: 'patient',
    field: 'name',
    reference: 'NM103 1–60 and NM104 1–35 characters',
    title: 'Names fit their elements',
    check: (c) =>
      when(
        [c.patient, c.subscriber].some((p) => p.last.length > 60 || p.first.length > 35),
        'A last name may have 60 characters, a first name 35',
      ),
  },
  {
    id: 'patient-birth',
    severity: 'stop',
    place: 'patient',
    field: 'birthDate',
    reference: '2010BA/2010CA DMG02',
    title: 'The birth date is known and not in the future',
    check: (c, x) =>
      when(
        !c.patient.birthDate || c.patient.birthDate > x.today,
        'The patient’s birth date is missing or in the future',
      ),
  },
  {
    id: 'birth-before-service',
    severity: 'stop',
    place: 'patient',
    field: 'birthDate',
    reference: '2400 DTP03, common practice',
    title: 'Services are not before birth',
    check: (c) =>
      when(
        c.lines.some((line) => line.date < c.patient.birthDate),
        'A service lies before the patient’s birth date',
      ),
  },
  {
    id: 'patient-sex',
    severity: 'warn',
    place: 'patient',
    field: 'sex',
    reference: '2010BA/2010CA DMG03',
    title: 'The sex is stated',
    check: (c) => when(c.patient.sex === 'U', 'The patient’s sex is “unknown”: some payers reject this'),
  },
  {
    id: 'patient-address',
    severity: 'stop',
    place: 'patient',
    field: 'address',
    reference: '2010BA N301, N401, N402',
    title: 'The address is complete',
    check: (c) =>
      when(
        [c.patient.address, c.subscriber.address].some((a) => !a.line1 || !a.city || !a.state),
        'Street, city or state is missing',
      ),
  },
  {
    id: 'patient-zip',
    severity: 'stop',
    place: 'patient',
    field: 'zip',
    reference: '2010BA N403',
    title: 'The ZIP has five or nine digits',
    check: (c) =>
      when(
        ![c.patient.address, c.subscriber.address].every((a) => zipOk(a.zip)),
        'The ZIP code must have five or nine digits',
      ),
  },
  {
    id: 'patient-state',
    severity: 'stop',
    place: 'patient',
    field: 'state',
    reference: '2010BA N402, USPS state codes',
    title: 'The state is a state code',
    check: (c) =>
      when(
        !!c.patient.address.state && !STATES.has(c.patient.address.state),
        `“${c.patient.address.state}” is not a state code`,
      ),
  },
  {
    id: 'member-id',
    severity: 'stop',
    place: 'coverage',
    field: 'memberId',
    reference: '2010BA NM109',
    title: 'The member id is there',
    check: (c) => when(!c.subscriber.memberId, 'The member id is missing'),
  },
  {
    id: 'member-id-form',
    severity: 'stop',
    place: 'coverage',
    field: 'memberId',
    reference: '2010BA NM109, 2–80 characters',
    title: 'The member id has letters and digits only',
    check: (c) =>
      when(
        !!c.subscriber.memberId && !/^[A-Za-z0-9-]{2,80}$/.test(c.subscriber.memberId),
        'The member id may hold letters, digits and hyphens, 2 to 80 of them',
      ),
  },
  {
    id: 'subscriber-birth',
    severity: 'stop',
    place: 'coverage',
    field: 'relationship',
    reference: '2010BA DMG02',
    title: 'The subscriber is known',
    check: (c) =>
      when(
        !c.subscriber.last || (!c.subscriber.birthDate && !c.subscriber.organization),
        'The subscriber’s name or birth date is missing',
      ),
  },
  {
    id: 'coverage-dates',
    severity: 'stop',
    place: 'coverage',
    field: 'validFrom',
    reference: 'common practice, no source',
    title: 'The coverage is in force on each date',
    check: (c, x) =>
      perLine(
        c,
        (line) =>
          ((x.coverageFrom && line.date < x.coverageFrom) || (x.coverageTo && line.date > x.coverageTo)) &&
          `The coverage is not in force on ${line.date}`,
      ),
  },
];

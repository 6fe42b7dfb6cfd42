/** Kinds and dates of cases. */
import { calendarDate } from '../calendar';
import { CASE_DATES, isAccident, paperDates } from './cases';

const day = calendarDate('2026-01-12');

test('three kinds are accidents', () => {
  expect(
    (['general', 'illness', 'work', 'car', 'accident', 'therapy', 'series'] as const).filter(isAccident),
  ).toEqual(['work', 'car', 'accident']);
});

test('dates go by the qualifiers of the guide (005010X222A1 2300 DTP01, from memory)', () => {
  expect(Object.values(CASE_DATES).map(({ x12 }) => x12)).toEqual(['431', '454', '439', '453', '304', '444']);
});

test('box 14 takes the onset alone, box 15 the accident before all others', () => {
  expect(paperDates({})).toEqual({ box14: null, box15: null, left: [] });
  expect(paperDates({ onset: day })).toEqual({ box14: 'onset', box15: null, left: [] });
  expect(paperDates({ onset: day, lastSeen: day, accident: day, firstContact: day })).toEqual({
    box14: 'onset',
    box15: 'accident',
    left: ['lastSeen', 'firstContact'],
  });
  expect(paperDates({ acute: day, firstTreated: day })).toEqual({
    box14: null,
    box15: 'firstTreated',
    left: ['acute'],
  });
});

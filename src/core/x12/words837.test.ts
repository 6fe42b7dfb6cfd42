/** Every segment that a claim file of ours can have is said in words. */
import fc from 'fast-check';
import { anyClaim } from '../../testing/arbitraries';
import { runs } from '../../testing/runs';
import { transmission } from '../../testing/x12';
import { segmentWords } from './words837';

test.each(['professional', 'dental'] as const)('whatever a %s claim says has words beside it', (form) => {
  fc.assert(
    fc.property(anyClaim(form), (claim) => {
      for (const segment of transmission(form, [claim]).split('~')) {
        const text = segment.trim();
        if (text) expect(segmentWords(text)).not.toMatch(/^[A-Z0-9]{2,3}$/);
      }
    }),
    { numRuns: runs(150) },
  );
});

test('a level is said by what it is, a segment of another file by its id', () => {
  expect(segmentWords('HL*3*2*23*0~')).toBe('Level: the patient');
  expect(segmentWords('DTP*472*D8*20260316~')).toBe('Day of the service');
  expect(segmentWords('CLP*1')).toBe('CLP');
});

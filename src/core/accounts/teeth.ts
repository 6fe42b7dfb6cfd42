/** Teeth, their surfaces and the areas of the mouth, as a dental claim names them (universal numbering; common practice, no source). */
import { ORAL_AREAS } from './oral-areas';

/** What a service needs to be told of the mouth. */
export interface NeedsOfMouth {
  tooth: boolean;
  surface: boolean;
  area: '' | 'quadrant' | 'arch';
}

/** What is said of the mouth for a service: empty where nothing is. */
export interface SaidOfMouth {
  tooth: string;
  surfaces: string;
  area: string;
}

/** What is wrong with it, at which field. */
export interface MouthFault {
  field: 'tooth' | 'surfaces' | 'area';
  missing: boolean;
  words: string;
}

/** Incisors and canines, which have an edge (I) and no chewing surface (O). */
const isFront = (tooth: string): boolean => {
  const number = Number(tooth);
  return Number.isNaN(number)
    ? /^[C-HM-R]$/.test(tooth)
    : (number >= 6 && number <= 11) || (number >= 22 && number <= 27);
};

/** The quadrant of a tooth (10, 20, 30, 40). */
export function quadrantOf(tooth: string): string {
  const number = Number(tooth);
  const at = Number.isNaN(number)
    ? Math.floor('ABCDEFGHIJKLMNOPQRST'.indexOf(tooth) / 5)
    : Math.floor((number - 1) / 8);
  return `${at + 1}0`;
}

const AREAS = { quadrant: ['10', '20', '30', '40'], arch: ['01', '02'] } as const;

/** The arch of a quadrant (01 upper, 02 lower). */
const archOf = (quadrant: string): string => (quadrant === '10' || quadrant === '20' ? '01' : '02');

/** Whether a tooth lies in an area of the mouth. */
const liesIn = (tooth: string, area: string): boolean =>
  area === '00' || area === quadrantOf(tooth) || area === archOf(quadrantOf(tooth));

/** What is missing or wrong of what is said of the mouth for a service; null where nothing is. @param code of the service */
export function mouthFault(code: string, needs: NeedsOfMouth, said: SaidOfMouth): MouthFault | null {
  const { tooth, surfaces, area } = said;
  if (needs.tooth && !tooth) return { field: 'tooth', missing: true, words: `${code} needs a tooth` };
  if (needs.surface && !surfaces)
    return { field: 'surfaces', missing: true, words: `${code} needs surfaces` };
  if (needs.area && !area)
    return {
      field: 'area',
      missing: true,
      words: `${code} needs ${needs.area === 'arch' ? 'an arch' : 'a quadrant'}`,
    };
  if (needs.area && !(AREAS[needs.area] as readonly string[]).includes(area))
    return {
      field: 'area',
      missing: false,
      words: `${code} is of ${needs.area === 'arch' ? 'an arch' : 'a quadrant'}, and not of the ${ORAL_AREAS[area] ?? area}`,
    };
  if (tooth && area && !liesIn(tooth, area))
    return {
      field: 'area',
      missing: false,
      words: `Tooth ${tooth} does not lie in the ${ORAL_AREAS[area] ?? area}`,
    };
  if (surfaces && !tooth) return { field: 'tooth', missing: true, words: `Surfaces of which tooth?` };
  if (new Set(surfaces).size < surfaces.length)
    return { field: 'surfaces', missing: false, words: `A surface of tooth ${tooth} stands there twice` };
  if (tooth && isFront(tooth) && surfaces.includes('O'))
    return {
      field: 'surfaces',
      missing: false,
      words: `Tooth ${tooth} has an edge (I) and no chewing surface (O)`,
    };
  if (tooth && !isFront(tooth) && surfaces.includes('I'))
    return {
      field: 'surfaces',
      missing: false,
      words: `Tooth ${tooth} has a chewing surface (O) and no edge (I)`,
    };
  return null;
}

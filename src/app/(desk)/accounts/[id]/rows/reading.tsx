import type { SubLine } from '../../../../../ui/line-table';

/** What stands under a row while it is read. */
export const READING: SubLine = { key: 'reading', wide: <span className="quiet">Reading …</span> };

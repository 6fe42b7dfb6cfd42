/** What the screens of the statements station ask. */
import { z } from 'zod';
import { idField, keyField } from '../fields';

/** One household's statement. */
export const statementInput = z.object({ householdId: idField, key: keyField });

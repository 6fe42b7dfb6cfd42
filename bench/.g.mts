import { testDatabase } from '../src/testing/database';
import { fill } from './fill';
const t = await testDatabase();
await fill(t, 1000, 20000);
const { rows } = await t.pool.query('select current_database() as n');
console.log(rows[0].n);
process.exit(0);

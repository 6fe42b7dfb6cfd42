/** Every use case that the program has. */
import { readFileSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { type AnyUseCase, useCases } from '../server/use-case';

const SERVER = join(__dirname, '../server');

/** All use cases by their names, whichever of them a test has imported. */
export function allUseCases(): ReadonlyMap<string, AnyUseCase> {
  for (const name of readdirSync(SERVER, { recursive: true, encoding: 'utf8' })) {
    const path = join(SERVER, name);
    if (!/(?<!\.test)\.ts$/.test(name) || !readFileSync(path, 'utf8').includes(' = useCase({')) continue;
    // eslint-disable-next-line @typescript-eslint/no-require-imports
    require(path);
  }
  return useCases();
}

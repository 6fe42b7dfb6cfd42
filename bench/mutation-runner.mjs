/**
 * How the database's tests are run for each mutant: by Jest's own test runner and expectations, but in one process that keeps
 * the program and the database to copy from, so that a mutant takes a second or two instead of a minute. The tests of the
 * mutant's own room are asked first, the others by how quickly they answer, and no more once a test has failed. Tests that take
 * longer than `SLOWEST` are left out: what they alone would catch counts as survived.
 */
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { basename, dirname, resolve } from 'node:path';
import { pathToFileURL } from 'node:url';
import { commonTokens, declareClassPlugin, PluginKind } from '@stryker-mutator/api/plugin';
import {
  determineHitLimitReached,
  DryRunStatus,
  TestStatus,
  toMutantRunResult,
} from '@stryker-mutator/api/test-runner';
import { expect } from 'expect';
import * as circus from 'jest-circus';

const SLOWEST = 1000;
const PATIENCE = 20_000;
const TIMES = process.env.WERGELD_MUTATE_TIMES;
const SPACE = (globalThis.__stryker__ ??= {});

class DatabaseTests {
  static inject = [commonTokens.options];
  #files;
  #runs = 0;

  constructor(options) {
    this.#files = options.databaseTests.map((file) => resolve(file));
  }

  capabilities() {
    return { reloadEnvironment: false };
  }

  async init() {
    process.env.NODE_ENV = 'test';
    Object.assign(globalThis, {
      expect,
      test: circus.test,
      it: circus.it,
      describe: circus.describe,
      beforeAll: circus.beforeAll,
      beforeEach: circus.beforeEach,
      afterAll: circus.afterAll,
      afterEach: circus.afterEach,
    });
    // What a test left behind when it failed must not end the process.
    process.on('unhandledRejection', () => undefined);
    process.on('uncaughtException', () => undefined);
    const { makeTemplate, dropTemplate } = await import(
      pathToFileURL(resolve('src/testing/database.ts')).href
    );
    await makeTemplate();
    this.dispose = dropTemplate;
  }

  /** Runs everything, and notes what each test reaches and how long it takes. */
  async dryRun() {
    SPACE.activeMutant = undefined;
    const tests = [];
    const times = {};
    for (const file of this.#files) {
      const results = await this.#runFile(file, undefined, false);
      const took = results.reduce((sum, one) => sum + one.timeSpentMs, 0);
      times[file] = Object.fromEntries(results.map((one) => [one.id, one.timeSpentMs]));
      process.stderr.write(`${file} ${results.length} ${took} ms\n`);
      const failed = results.find((one) => one.status === TestStatus.Failed);
      if (failed)
        return { status: DryRunStatus.Error, errorMessage: `${failed.id}: ${failed.failureMessage}` };
      tests.push(...results);
    }
    mkdirSync(dirname(TIMES), { recursive: true });
    writeFileSync(TIMES, JSON.stringify(times));
    const slow = new Set(tests.filter((one) => one.timeSpentMs > SLOWEST).map((one) => one.id));
    const { perTest, ...rest } = SPACE.mutantCoverage;
    return {
      status: DryRunStatus.Complete,
      tests: tests.filter((one) => !slow.has(one.id)),
      mutantCoverage: {
        ...rest,
        perTest: Object.fromEntries(Object.entries(perTest).filter(([id]) => !slow.has(id))),
      },
    };
  }

  /** Runs the tests that reach a mutant until one of them fails. */
  async mutantRun({ activeMutant, testFilter, hitLimit }) {
    SPACE.hitLimit = hitLimit;
    SPACE.hitCount = hitLimit ? 0 : undefined;
    SPACE.activeMutant = activeMutant.id;
    const wanted = new Set(testFilter);
    const times = JSON.parse(readFileSync(TIMES, 'utf8'));
    // The tests of its own room know most of it.
    const elsewhere = (file) => !file.includes(`/${basename(dirname(activeMutant.fileName))}/`);
    const inOrder = this.#files
      .map((file) => ({ file, ids: Object.entries(times[file] ?? {}).filter(([id]) => wanted.has(id)) }))
      .filter(({ ids }) => ids.length > 0)
      .sort((a, b) => elsewhere(a.file) - elsewhere(b.file) || duration(a.ids) - duration(b.ids));
    const tests = [];
    try {
      for (const { file } of inOrder) {
        tests.push(...(await this.#runFile(file, wanted, true)));
        const endless = determineHitLimitReached(SPACE.hitCount, SPACE.hitLimit);
        if (endless) return endless;
        if (tests.some((one) => one.status === TestStatus.Failed)) break;
      }
    } finally {
      SPACE.activeMutant = undefined;
    }
    return toMutantRunResult({ status: DryRunStatus.Complete, tests }, false);
  }

  async #runFile(file, wanted, stopAtFailure) {
    circus.resetState();
    const state = circus.getState();
    state.testTimeout = PATIENCE;
    const results = [];
    const idOf = (test) => {
      const names = [];
      for (let one = test; one.parent; one = one.parent) names.unshift(one.name);
      return `${file} › ${names.join(' ')}`;
    };
    let first;
    let failed = false;
    const watch = (event) => {
      if (event.name === 'run_start') first = idOf(firstTest(state.rootDescribeBlock));
      // What is set up before all counts as reached by the first test.
      if (event.name === 'hook_start' && event.hook.type === 'beforeAll') SPACE.currentTestId = first;
      if (event.name === 'test_start') {
        const id = idOf(event.test);
        if ((wanted && !wanted.has(id)) || (stopAtFailure && failed)) event.test.mode = 'skip';
        SPACE.currentTestId = id;
      }
      if (event.name === 'test_done') {
        SPACE.currentTestId = undefined;
        const wrong = event.test.errors.flat().find(Boolean);
        failed ||= Boolean(wrong);
        const one = {
          id: idOf(event.test),
          name: event.test.name,
          timeSpentMs: event.test.duration ?? 0,
          fileName: file,
        };
        results.push(
          wrong
            ? { ...one, status: TestStatus.Failed, failureMessage: String(wrong.message ?? wrong) }
            : { ...one, status: TestStatus.Success },
        );
      }
    };
    circus.addEventHandler(watch);
    try {
      // Anew each time: a test file counts and remembers.
      await import(`${pathToFileURL(file).href}?run=${(this.#runs += 1)}`);
      const { unhandledErrors } = await circus.run();
      if (unhandledErrors.length > 0 && !failed)
        results.push({
          id: `${file} › outside of its tests`,
          name: 'outside of its tests',
          timeSpentMs: 0,
          fileName: file,
          status: TestStatus.Failed,
          failureMessage: String(unhandledErrors[0]),
        });
    } finally {
      circus.removeEventHandler(watch);
      SPACE.currentTestId = undefined;
    }
    return results;
  }
}

const duration = (ids) => ids.reduce((sum, [, ms]) => sum + ms, 0);
const firstTest = (block) =>
  block.children.map((one) => (one.type === 'test' ? one : firstTest(one))).find(Boolean);

/** Found by Stryker under this name. */
export const strykerPlugins = [declareClassPlugin(PluginKind.TestRunner, 'database', DatabaseTests)];
/** Its one option: the files of the tests. */
export const strykerValidationSchema = {
  properties: { databaseTests: { type: 'array', items: { type: 'string' }, default: [] } },
};

/** Jest's order of test files: the longest first, as it is; shuffled by the seed of WERGELD_SHUFFLE where that is asked for. */
const { createHash } = require('node:crypto');
const { default: Sequencer } = require('@jest/test-sequencer');

module.exports = class extends Sequencer {
  sort(tests) {
    const seed = process.env.WERGELD_SHUFFLE;
    if (!seed) return super.sort(tests);
    const place = ({ path }) => createHash('sha256').update(`${seed} ${path}`).digest('hex');
    return [...tests].sort((a, b) => (place(a) < place(b) ? -1 : 1));
  }
};

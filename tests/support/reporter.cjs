// Mocha's own report, what took longest, and a line of counts for the script that adds them up.
const { reporters } = require('mocha');

const shownSeconds = 10;

module.exports = class extends reporters.Spec {
  constructor(runner, options) {
    super(runner, options);
    const startedAt = new Map();
    const taken = [];
    runner.on('suite', (suite) => {
      if (suite.parent?.root) startedAt.set(suite, Date.now());
    });
    runner.on('suite end', (suite) => {
      if (startedAt.has(suite)) taken.push([(Date.now() - startedAt.get(suite)) / 1000, suite.title]);
    });
    runner.once('end', () => {
      for (const [seconds, title] of taken.sort(([a], [b]) => b - a))
        if (seconds >= shownSeconds) console.log(`${seconds.toFixed(0).padStart(5)} s  ${title}`);
      console.log(`counts ${this.stats.passes} ${this.stats.failures}`);
    });
  }
};

// Mocha's own report, what took longest, and a line of counts for the script that adds them up.
const { reporters } = require('mocha');
const { relative } = require('node:path');

const shownSeconds = 4;

module.exports = class extends reporters.Spec {
  constructor(runner, options) {
    super(runner, options);
    // Files run in processes of their own, and tell all at once when they are through: only durations say what took long.
    const seconds = new Map();
    const add = ({ file, duration, parent }) => {
      const name = relative(process.cwd(), file ?? parent?.file ?? '');
      seconds.set(name, (seconds.get(name) ?? 0) + (duration ?? 0) / 1000);
    };
    runner.on('test end', add);
    runner.on('hook end', add);
    runner.once('end', () => {
      const longest = [...seconds].sort(([, a], [, b]) => b - a);
      for (const [name, taken] of longest)
        if (taken >= shownSeconds) console.log(`${taken.toFixed(0).padStart(5)} s  ${name}`);
      console.log(`counts ${this.stats.passes} ${this.stats.failures}`);
    });
  }
};

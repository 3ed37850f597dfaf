// Mocha's own report, and a line of counts for the script that adds them up.
const { reporters } = require('mocha');

module.exports = class extends reporters.Spec {
  constructor(runner, options) {
    super(runner, options);
    runner.once('end', () => console.log(`counts ${this.stats.passes} ${this.stats.failures}`));
  }
};

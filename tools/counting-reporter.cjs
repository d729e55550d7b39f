// Mocha's spec reporter, which also writes how many tests passed and failed to a file.
const { writeFileSync } = require('node:fs');
const { reporters } = require('mocha');

module.exports = class extends reporters.Spec {
  constructor(runner, options) {
    super(runner, options);
    const counts = { passed: 0, failed: 0 };
    const write = () => writeFileSync(options.reporterOption?.output ?? options.reporterOptions.output, `${counts.passed} ${counts.failed}\n`);
    runner.on('pass', () => counts.passed++ && false);
    runner.on('fail', () => counts.failed++ && false);
    runner.on('end', write);
  }
};

// Mocha's spec reporter, which also writes how many tests passed and failed to a file, and beside it how long each took
// and which failed.
const { writeFileSync } = require('node:fs');
const { reporters } = require('mocha');

module.exports = class extends reporters.Spec {
  constructor(runner, options) {
    super(runner, options);
    const output = options.reporterOption?.output ?? options.reporterOptions.output;
    const counts = { passed: 0, failed: 0 };
    const took = [];
    runner.on('pass', (test) => {
      counts.passed++;
      took.push(`${test.duration} ${test.fullTitle()}`);
    });
    const failed = [];
    runner.on('fail', (test, error) => {
      counts.failed++;
      failed.push(
        `✗ ${test.fullTitle()}\n  ${String(error.message ?? error)
          .split('\n')
          .slice(0, 12)
          .join('\n  ')}`,
      );
    });
    runner.on('end', () => {
      writeFileSync(output, `${counts.passed} ${counts.failed}\n`);
      writeFileSync(output.replace(/report$/, 'slow'), `${took.join('\n')}\n`);
      if (failed.length > 0) writeFileSync(output.replace(/report$/, 'failed'), `${failed.join('\n')}\n`);
    });
  }
};

/** Loaded before every suite: a promise that fails unheard fails the test that runs, as it would end the program. */
process.on('unhandledRejection', (reason) => {
  throw reason;
});

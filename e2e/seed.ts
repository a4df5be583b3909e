import fc from 'fast-check';

// Other cases in every run; a failure prints its seed, and MALACHITE_TEST_SEED brings the same cases again.
fc.configureGlobal({ seed: process.env['MALACHITE_TEST_SEED'] ? Number(process.env['MALACHITE_TEST_SEED']) : Date.now() % 2 ** 31 });

import fc from 'fast-check';

// The same cases in every run, so that a failure can be seen again; another seed looks at others.
fc.configureGlobal({ seed: Number(process.env['MALACHITE_TEST_SEED'] ?? 20_240_531) });

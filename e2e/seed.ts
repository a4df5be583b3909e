import fc from 'fast-check';

// The same cases in every run, so that what fails is of the change at hand. MALACHITE_TEST_SEED=new takes others; what fails prints its seed,
// and MALACHITE_TEST_SEED brings the same cases again.
const wanted = process.env['MALACHITE_TEST_SEED'];
fc.configureGlobal({ seed: wanted === 'new' ? Date.now() % 2 ** 31 : Number(wanted ?? 2026) });

import { setLocale } from 'yup';

const KINDS: Record<string, string> = {
	string: 'text',
	number: 'a number',
	boolean: 'yes or no',
	array: 'a list',
	object: 'a group of fields',
	date: 'a date',
	mixed: 'a value'
};
/** A value as it is shown in a sentence, cut where it is long. */
const shown = (value: unknown): string => {
	const text =
		typeof value === 'string'
			? `“${value}”`
			: Array.isArray(value)
				? 'a list'
				: typeof value === 'object' && value !== null
					? 'a group of fields'
					: String(value);
	return text.length > 60 ? `${text.slice(0, 57)}…` : text;
};
const many = (n: number, what: string) => `${n} ${what}${n === 1 ? '' : 's'}`;

/** What the guards say, in words for those who type values. The field is named beside them, so they begin with what it must be. */
setLocale({
	mixed: {
		default: 'is not valid',
		required: 'must be given',
		defined: 'must be given',
		notNull: 'must be given',
		oneOf: ({ values }) => `must be one of ${String(values).replace(/,\s*/g, ', ')}`,
		notOneOf: ({ values }) => `must not be ${String(values)}`,
		notType: ({ type, originalValue, value }) =>
			originalValue === null || originalValue === undefined || originalValue === ''
				? 'must be given'
				: `must be ${KINDS[type] ?? type}; it is ${shown(originalValue ?? value)}`
	},
	string: {
		min: ({ min }) => (min === 1 ? 'must be given' : `must have at least ${many(min, 'letter')}`),
		max: ({ max }) => `must have at most ${many(max, 'letter')}`,
		length: ({ length }) => `must have ${many(length, 'letter')}`,
		matches: 'is not written as it must be',
		email: 'must be an address of e-mail',
		url: 'must be an address',
		uuid: 'must be the id of something that there is',
		trim: 'must have no blanks at its ends'
	},
	number: {
		min: ({ min }) => `must be ${min} or more`,
		max: ({ max }) => `must be ${max} or less`,
		lessThan: ({ less }) => `must be less than ${less}`,
		moreThan: ({ more }) => `must be more than ${more}`,
		positive: 'must be more than 0',
		negative: 'must be less than 0',
		integer: 'must be a whole number'
	},
	array: {
		min: ({ min }) => `must have at least ${many(min, 'entry').replace('entrys', 'entries')}`,
		max: ({ max }) => `must have at most ${many(max, 'entry').replace('entrys', 'entries')}`,
		length: ({ length }) => `must have ${many(length, 'entry').replace('entrys', 'entries')}`
	},
	object: { noUnknown: ({ unknown }) => `has a field that is not known: ${String(unknown)}` },
	boolean: { isValue: ({ value }) => `must be ${value === 'true' ? 'yes' : 'no'}` }
});

/** The path of a field in words: `units[0].dipAzimuth` is “units 1, dip azimuth”. */
export const fieldInWords = (path: string): string =>
	path
		.replace(/["\]]/g, '')
		.split(/[.[]/)
		.filter(Boolean)
		.map((part) =>
			/^\d+$/.test(part)
				? String(Number(part) + 1)
				: part.replace(/([a-z])([A-Z])/g, (_, a: string, b: string) => `${a} ${b.toLowerCase()}`)
		)
		.reduce((text, part) => (text === '' ? part : /^\d+$/.test(part) ? `${text} ${part}` : `${text}, ${part}`), '');

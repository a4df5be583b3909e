import { mendWestern, westernText } from '../tables/western';

/** Upper halves of the code pages that no decoder of the platform knows: 0x80 to 0xFF. */
const CP437 =
	'ÇüéâäàåçêëèïîìÄÅÉæÆôöòûùÿÖÜ¢£¥₧ƒáíóúñÑªº¿⌐¬½¼¡«»░▒▓│┤╡╢╖╕╣║╗╝╜╛┐└┴┬├─┼╞╟╚╔╩╦╠═╬╧╨╤╥╙╘╒╓╫╪┘┌█▄▌▐▀αßΓπΣσµτΦΘΩδ∞φε∩≡±≥≤⌠⌡÷≈°∙·√ⁿ²■\u00a0';
const CP850 =
	'ÇüéâäàåçêëèïîìÄÅÉæÆôöòûùÿÖÜø£Ø×ƒáíóúñÑªº¿®¬½¼¡«»░▒▓│┤ÁÂÀ©╣║╗╝¢¥┐└┴┬├─┼ãÃ╚╔╩╦╠═╬¤ðÐÊËÈıÍÎÏ┘┌█▄¦Ì▀ÓßÔÒõÕµþÞÚÛÙýÝ¯´\u00ad±‗¾¶§÷¸°¨·¹³²■\u00a0';
const CP852 =
	'ÇüéâäůćçłëŐőîŹÄĆÉĹĺôöĽľŚśÖÜŤťŁ×čáíóúĄąŽžĘę¬źČş«»░▒▓│┤ÁÂĚŞ╣║╗╝Żż┐└┴┬├─┼Ăă╚╔╩╦╠═╬¤đĐĎËďŇÍÎě┘┌█▄ŢŮ▀ÓßÔŃńňŠšŔÚŕŰýÝţ´\u00ad˝˛ˇ˘§÷¸°¨˙űŘř■\u00a0';
const OWN: Record<string, string> = { cp437: CP437, cp850: CP850, cp852: CP852 };

/** Code pages of tables in dBASE files by their language driver, as far as they are known. */
const DRIVERS: Record<number, string> = {
	0x01: 'cp437',
	0x02: 'cp850',
	0x03: 'windows-1252',
	0x57: 'windows-1252',
	0x58: 'windows-1252',
	0x59: 'windows-1252',
	0x08: 'cp850',
	0x0a: 'cp850',
	0x0e: 'cp850',
	0x10: 'cp850',
	0x12: 'cp850',
	0x13: 'shift_jis',
	0x1f: 'cp852',
	0x22: 'cp852',
	0x23: 'cp852',
	0x26: 'ibm866',
	0x37: 'cp850',
	0x40: 'cp852',
	0x4d: 'gbk',
	0x4e: 'euc-kr',
	0x4f: 'big5',
	0x64: 'cp852',
	0x65: 'ibm866',
	0x7b: 'shift_jis',
	0x78: 'big5',
	0x79: 'euc-kr',
	0x7a: 'gbk',
	0x87: 'cp852',
	0xc8: 'windows-1250',
	0xc9: 'windows-1251',
	0xca: 'windows-1254',
	0xcb: 'windows-1253'
};

/** The encoding that a .cpg file or a language driver names; null when it is none that is known. */
export function encodingNamed(text: string): string | null {
	const plain = text
		.trim()
		.toLowerCase()
		.replace(/^(ansi|oem)\s+/, '');
	const code = /^(?:cp|windows-|ibm)?(\d{3,5})$/.exec(plain)?.[1];
	if (code === '65001') return 'utf-8';
	if (code && OWN[`cp${code}`]) return `cp${code}`;
	const label = code
		? ({ 932: 'shift_jis', 936: 'gbk', 949: 'euc-kr', 950: 'big5', 866: 'ibm866', 88591: 'windows-1252', 28591: 'windows-1252' }[code] ??
			`windows-${code}`)
		: plain.replace(/^iso\s?/, 'iso-').replace(/^iso--/, 'iso-');
	try {
		return new TextDecoder(label).encoding;
	} catch {
		return null;
	}
}

/** The encoding of a dBASE table without a .cpg beside it: by its language driver, else UTF-8 where its bytes are that, else Windows-1252. */
export function encodingOfDbf(bytes: Uint8Array): string {
	const driver = DRIVERS[bytes[29] ?? 0];
	if (driver) return driver;
	try {
		new TextDecoder('utf-8', { fatal: true }).decode(bytes.subarray(new DataView(bytes.buffer, bytes.byteOffset).getUint16(8, true)));
		return 'utf-8';
	} catch {
		return 'windows-1252';
	}
}

/** The encoding that the platform decodes in place of one, and what puts its letters right afterwards. */
export function decodingOf(encoding: string): { encoding: string; mend: (text: string) => string } {
	const own = OWN[encoding];
	if (!own) return { encoding, mend: encoding === 'windows-1252' ? mendWestern : (t) => t };
	const bytes = new Map(Array.from({ length: 128 }, (_, i) => [westernText(Uint8Array.of(i + 128)), i]));
	return { encoding: 'windows-1252', mend: (t) => Array.from(mendWestern(t), (c) => (bytes.has(c) ? own[bytes.get(c)!]! : c)).join('') };
}

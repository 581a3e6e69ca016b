//! Currencies beside a number: signs, codes, and the abbreviations in which some are written.

/// The codes of ISO 4217, list one, without those of metals, funds and tests.
const CODES: [&[u8; 3]; 156] = [
    b"AED", b"AFN", b"ALL", b"AMD", b"ANG", b"AOA", b"ARS", b"AUD", b"AWG", b"AZN", b"BAM", b"BBD",
    b"BDT", b"BGN", b"BHD", b"BIF", b"BMD", b"BND", b"BOB", b"BRL", b"BSD", b"BTN", b"BWP", b"BYN",
    b"BZD", b"CAD", b"CDF", b"CHF", b"CLP", b"CNY", b"COP", b"CRC", b"CUP", b"CVE", b"CZK", b"DJF",
    b"DKK", b"DOP", b"DZD", b"EGP", b"ERN", b"ETB", b"EUR", b"FJD", b"FKP", b"GBP", b"GEL", b"GHS",
    b"GIP", b"GMD", b"GNF", b"GTQ", b"GYD", b"HKD", b"HNL", b"HTG", b"HUF", b"IDR", b"ILS", b"INR",
    b"IQD", b"IRR", b"ISK", b"JMD", b"JOD", b"JPY", b"KES", b"KGS", b"KHR", b"KMF", b"KPW", b"KRW",
    b"KWD", b"KYD", b"KZT", b"LAK", b"LBP", b"LKR", b"LRD", b"LSL", b"LYD", b"MAD", b"MDL", b"MGA",
    b"MKD", b"MMK", b"MNT", b"MOP", b"MRU", b"MUR", b"MVR", b"MWK", b"MXN", b"MYR", b"MZN", b"NAD",
    b"NGN", b"NIO", b"NOK", b"NPR", b"NZD", b"OMR", b"PAB", b"PEN", b"PGK", b"PHP", b"PKR", b"PLN",
    b"PYG", b"QAR", b"RON", b"RSD", b"RUB", b"RWF", b"SAR", b"SBD", b"SCR", b"SDG", b"SEK", b"SGD",
    b"SHP", b"SLE", b"SOS", b"SRD", b"SSP", b"STN", b"SVC", b"SYP", b"SZL", b"THB", b"TJS", b"TMT",
    b"TND", b"TOP", b"TRY", b"TTD", b"TWD", b"TZS", b"UAH", b"UGX", b"USD", b"UYU", b"UZS", b"VES",
    b"VND", b"VUV", b"WST", b"XAF", b"XCD", b"XCG", b"XOF", b"XPF", b"YER", b"ZAR", b"ZMW", b"ZWG",
];

/// What stands for a currency without being a sign or a code.
const ABBREVIATIONS: [&str; 31] = [
    "kr", "zł", "Kč", "Ft", "Rs", "Rp", "Fr", "TL", "RM", "Bs", "lei", "Lei", "din", "лв", "руб",
    "грн", "ден", "дин", "د.إ", "ر.س", "د.ك", "د.ب", "ر.ع", "ر.ق", "د.أ", "ج.م", "د.ج", "د.م",
    "元", "円", "원",
];

/// Whether three letters are a code of a currency. A bit for each three letters: it is asked of
/// every number after a hyphen, and a search of the list costs ten times as much.
#[inline]
pub(crate) fn is_currency_code(code: [u8; 3]) -> bool {
    code_bit(code).is_some_and(|bit| BITS[bit / 64] >> (bit % 64) & 1 == 1)
}

const BITS: [u64; 26 * 26 * 26 / 64 + 1] = {
    let mut bits = [0; 26 * 26 * 26 / 64 + 1];
    let mut n = 0;
    while n < CODES.len() {
        if let Some(bit) = code_bit(*CODES[n]) {
            bits[bit / 64] |= 1 << (bit % 64);
        }
        n += 1;
    }
    bits
};

const fn code_bit([a, b, c]: [u8; 3]) -> Option<usize> {
    if !(a.is_ascii_uppercase() && b.is_ascii_uppercase() && c.is_ascii_uppercase()) {
        return None;
    }
    Some(((a - b'A') as usize * 26 + (b - b'A') as usize) * 26 + (c - b'A') as usize)
}

/// Whether a whole word names a currency: a code of ISO 4217, or one of a few abbreviations, with a
/// point after it or not.
pub(super) fn is_currency_word(word: &str) -> bool {
    let word = word.strip_suffix('.').unwrap_or(word);
    match <&[u8; 3]>::try_from(word.as_bytes()) {
        Ok(code) if is_currency_code(*code) => true,
        _ => ABBREVIATIONS.contains(&word),
    }
}

/// Whether a character is a currency sign: Unicode's general category Sc.
pub(super) fn is_currency_sign(c: char) -> bool {
    matches!(c, '$' | '¢'..='¥' | '֏' | '؋' | '߾' | '߿' | '৲' | '৳' | '৻' | '૱' | '௹' | '฿' | '៛' | '₠'..='⃀' | '꠸' | '﷼' | '﹩' | '＄' | '￠' | '￡' | '￥' | '￦')
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn codes_are_sorted_and_words_are_whole() {
        assert!(CODES.is_sorted());
        for (word, is) in [
            ("EUR", true),
            ("XCD", true),
            ("eur", false),
            ("AB", false),
            ("EURO", false),
            ("kr", true),
            ("kr.", true),
            ("د.إ.", true),
            ("zł", true),
            ("XXX", false),
        ] {
            assert_eq!(is_currency_word(word), is, "{word}");
        }
    }
}

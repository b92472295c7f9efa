// Numbers as people write and read them.

export const MINUS = "\u2212";

/** @param {number} value @param {number} places */
export const digits = (value, places) => value.toFixed(places).replace("-", MINUS);

/** A number with comma or point and any minus sign. @param {string} text */
export const numberOf = (text) => Number(text.replace(",", ".").replace(MINUS, "-"));

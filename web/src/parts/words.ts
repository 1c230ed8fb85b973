// Figures as text: a real minus, fixed digits, a blank for what is unknown.
export const num = (value: number | null | undefined, digits = 1): string =>
  value === null || value === undefined
    ? "–"
    : value
        .toFixed(digits)
        .replace("-", "−")
        .replace(/^−(0\.?0*)$/, "$1");

export const signed = (value: number | null | undefined, digits = 1): string => {
  const text = num(value, digits);
  return value !== null && value !== undefined && value > 0 && Number(value.toFixed(digits)) !== 0 ? `+${text}` : text;
};

export const percent = (share: number): string => `${(100 * share).toFixed(0)} %`;

export const money = (value: number, currency: string): string => `${currency} ${value.toFixed(2)}`;

export const hertz = (f: number): string => (f >= 1000 ? `${f / 1000} k` : String(f));

// A name cut to at most so many letters.
export const short = (name: string, most: number): string =>
  name.length > most ? `${name.slice(0, Math.max(most - 1, 0)).trimEnd()}…` : name;

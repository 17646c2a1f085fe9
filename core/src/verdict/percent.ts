/**
 * True per cent from log-percent: 100·(e^{v/100} − 1).
 * @example truePercent(2) // 2.02013
 */
export function truePercent(logPercent: number): number {
  return 100 * Math.expm1(logPercent / 100);
}

/**
 * Log-percent from true per cent: 100·ln(1 + p/100).
 * @example logPercent(2) // 1.98026
 */
export function logPercent(percent: number): number {
  return 100 * Math.log1p(percent / 100);
}

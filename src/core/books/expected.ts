/** When a contract's write-off counts in what was earned. */
export const WRITE_OFFS_COUNT = {
  answer: 'when the payer answers',
  service: 'on the day of service',
} as const;

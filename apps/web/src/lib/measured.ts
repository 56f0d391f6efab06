import type { Plan } from '@lurn/core';

/**
 * Whether what is left of the shake is measured by what was not fitted to it. One spot alone stands still by itself,
 * whatever the picture does.
 */
export function isMeasured({ of, motion }: Pick<Plan, 'of' | 'motion'>): boolean {
  return of.length !== 1 || motion.model === 'homography';
}

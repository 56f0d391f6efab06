import type { Plan } from '@lurn/core/plan';

/**
 * Whether what is left of the shake is measured by what was not fitted to it. One spot or two stand still by themselves,
 * whatever the picture does: they have no more numbers than a similarity.
 */
export function isMeasured({ of, motion }: Pick<Plan, 'of' | 'motion'>): boolean {
  return of.length === 0 || of.length > 2 || motion.model === 'homography';
}

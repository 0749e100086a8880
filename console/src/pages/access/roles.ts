/** What operators, integrations and tokens may do as, the least first. */
export const ROLES = ['viewer', 'operator', 'administrator'] as const;

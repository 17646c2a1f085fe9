import type { Schemas } from '../../api/client.ts';

/** What the roles are called and what they may do. */
export const ROLE_WORDS: Readonly<Record<Schemas['Role'], { name: string; one: string; may: string }>> = {
  owner: { name: 'Owner', one: 'an owner', may: 'everything, also people, access tokens and deleting bays' },
  technician: { name: 'Technician', one: 'a technician', may: 'jobs, pulls, bays and records' },
  viewer: { name: 'Viewer', one: 'a viewer', may: 'look at everything, change nothing' },
};

export const ROLE_CHOICES = (['technician', 'viewer', 'owner'] as const).map((r) => [r, ROLE_WORDS[r].name] as const);

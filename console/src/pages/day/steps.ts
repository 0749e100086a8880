/** The first steps of an installation: what is done, what is to be done, and how. */
import type { Schemas } from '../../lib/api';
import { plural } from '../../lib/format';

export type Opens = '' | 'password' | 'people' | 'application';

export interface Step {
  name: string;
  done: boolean;
  /** What there is, once it is done. */
  is: string;
  todo: string;
  act: string;
  opens: Opens;
  goes?: string;
}

export interface Begun {
  people: number;
  applications: Pick<Schemas['ApplicationRow'], 'name' | 'trust'>[];
  version: number;
}

export function stepsOf(
  { people, applications, version }: Begun,
  login: string,
  known: boolean
): Step[] {
  const acting = applications.filter((a) => a.trust !== 'watch').length;
  return [
    {
      name: 'You',
      done: known,
      is: `are signed in as ${login}`,
      todo: 'The link was good once: with a password you come in again.',
      act: 'Set your password …',
      opens: 'password'
    },
    {
      name: 'People',
      done: people > 0,
      is: plural(people, 'person', 'people'),
      todo: 'Who works here, from a CSV file; every row is checked first.',
      act: 'From a file …',
      opens: 'people'
    },
    {
      name: 'An application',
      done: applications.length > 0,
      is: applications.map((a) => a.name).join(', '),
      todo: 'Where they hold accounts. It is read and only watched: nothing is changed there.',
      act: 'Connect …',
      opens: 'application'
    },
    {
      name: 'Rules',
      done: version > 0,
      is: `version ${version} is in force`,
      todo: 'Who should have what; it is tried on everybody before it is in force.',
      act: 'Write them',
      opens: '',
      goes: '/rules'
    },
    {
      name: 'Trust',
      done: acting > 0,
      is: `Yugum acts in ${plural(acting, 'application')}`,
      todo: 'What Yugum may do in each application; until you say so it only watches.',
      act: 'Say it',
      opens: '',
      goes: '/applications'
    }
  ];
}

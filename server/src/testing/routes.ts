import type { Router } from 'express';
import { answersOf } from '../answers.js';
import { Access } from '../door/index.js';
import type { House } from '../house/index.js';

export interface Route {
  readonly method: string;
  readonly path: string;
}

/** Every route of the application, as the rooms have them: a new one is found by itself. */
export function allRoutes(house: House): Route[] {
  const answers = answersOf(house, new Access(house));
  const of = (router: Router, at: string): Route[] =>
    router.stack.flatMap(({ route }) =>
      route
        ? route.stack.map(({ method }) => ({
            method: method.toUpperCase(),
            path: `${at}${route.path === '/' ? '' : route.path}`,
          }))
        : [],
    );
  return [
    ...of(answers.session, '/api/session'),
    ...of(answers.handIn, '/api/hand-in'),
    ...answers.desk.flatMap((router) => of(router, '/api')),
    { method: 'GET', path: '/api/live' },
    { method: 'POST', path: '/api/hand-in/open' },
    { method: 'POST', path: '/api/uploads' },
    { method: 'PATCH', path: '/api/uploads/:upload' },
  ];
}

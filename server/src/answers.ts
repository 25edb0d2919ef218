import { handInRoutes, openLinkRoute } from './arriving/routes.js';
import { uploads } from './arriving/upload-routes.js';
import { auditRoutes } from './audit/routes.js';
import { clearingRoutes } from './clearing/routes.js';
import { counterRoutes } from './counter/routes.js';
import { drivingRoutes } from './driving/routes.js';
import { rebuildingRoutes } from './rebuilding/routes.js';
import { filingRoutes } from './filing/routes.js';
import type { House } from './house/index.js';
import type { Answers } from './http/app.js';
import type { Access } from './door/index.js';
import { doorRoutes } from './door/routes.js';
import { sessionRoutes } from './door/session-routes.js';
import { peopleRoutes } from './people/routes.js';
import { listRoutes } from './people/lists/routes.js';
import { provingRoutes } from './proving/routes.js';
import { dayBegins } from './rules/index.js';
import { ruleRoutes } from './rules/routes.js';
import { pictureRoutes } from './seeing/picture-routes.js';
import { seeingRoutes } from './seeing/routes.js';
import { bundleRoutes } from './shelf/bundle-routes.js';
import { foundRoutes } from './shelf/found-routes.js';
import { shelfRoutes } from './shelf/routes.js';
import { tendingRoutes } from './tending/routes.js';
import { slipRoutes } from './slip/routes.js';

/** What every room answers over HTTP. */
export function answersOf(house: House, access: Access): Answers {
  return {
    session: sessionRoutes(house, access, () => dayBegins(house.db)),
    openLink: openLinkRoute(access),
    handIn: handInRoutes(house),
    uploads: uploads(house),
    desk: [
      doorRoutes(house),
      auditRoutes(house),
      pictureRoutes(house),
      counterRoutes(house),
      shelfRoutes(house),
      foundRoutes(house),
      bundleRoutes(house),
      slipRoutes(house),
      seeingRoutes(house),
      filingRoutes(house),
      provingRoutes(house),
      clearingRoutes(house),
      drivingRoutes(house),
      rebuildingRoutes(house),
      tendingRoutes(house),
      peopleRoutes(house),
      listRoutes(house),
      ruleRoutes(house),
    ],
  };
}

import { HttpContextToken } from '@angular/common/http';

/** Said of a request whose page stays when the session has ended: what goes on there says so itself. */
export const STAYS = new HttpContextToken(() => false);

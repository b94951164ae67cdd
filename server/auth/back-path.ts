import { ROUTES } from '../../core/api/routes'

/** Where the identity provider sends people back to: the only address of ours that another site may lead to. */
export const BACK_PATH = ROUTES.signedIn.path

import { beginSignIn } from '../../../auth/provider'
import { Reply } from '../../../utils/reply'
import { defineRoute } from '../../../utils/route'

export default defineRoute('signIn', async ({ event, query }) => Reply.to((await beginSignIn(event, query.to)).href))

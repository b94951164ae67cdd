import { PACKED_TYPE } from '../../../../core/level/packed'
import { levelAs } from '../../../services/sent-level'
import { Reply } from '../../../utils/reply'
import { defineRoute } from '../../../utils/route'

export default defineRoute('getPacked', async ({ db, id }) =>
  Reply.compressed(await levelAs('packed', await db(), id), PACKED_TYPE),
)

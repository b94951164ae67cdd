import { serve } from '~/workers/serve'
import { pictureWork } from './picture-work'

serve(pictureWork())

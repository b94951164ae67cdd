import { serve } from './serve'
import { pictureWork } from './picture-work'

serve(pictureWork())

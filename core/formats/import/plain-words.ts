/**
 * What the Khronos validator's commonest findings mean (glTF Validator 2.0, ISSUES.md, from memory), by their codes.
 */
const WORDS: Readonly<Record<string, string>> = {
  MESH_PRIMITIVE_GENERATED_TANGENT_SPACE:
    'A texture of normals has no tangents to go by; every program works out its own, so that relief may look a little different elsewhere.',
  ACCESSOR_INVALID_FLOAT: 'A number in it is not a number, or has no end.',
  ACCESSOR_INDEX_OOB: 'A triangle names a vertex that is not there.',
  ACCESSOR_INDEX_TRIANGLE_DEGENERATE: 'Some triangles have no area.',
  ACCESSOR_VECTOR3_NON_UNIT: 'Some normals are not one long.',
  ACCESSOR_NON_UNIT: 'Some directions are not one long.',
  ACCESSOR_MIN_MISMATCH: 'It says wrongly how small its numbers are.',
  ACCESSOR_MAX_MISMATCH: 'It says wrongly how large its numbers are.',
  ACCESSOR_TOO_LONG: 'It claims more data than it holds.',
  BUFFER_VIEW_TOO_LONG: 'It claims more data than it holds.',
  BUFFER_BYTE_LENGTH_MISMATCH: 'Its data are shorter than it says.',
  GLB_LENGTH_MISMATCH: 'It is cut off, or longer than it says.',
  GLB_UNEXPECTED_END_OF_HEADER: 'It is cut off.',
  GLB_UNEXPECTED_END_OF_CHUNK_DATA: 'It is cut off.',
  IMAGE_NPOT_DIMENSIONS: 'The sides of a picture are no powers of two, which some older devices do not show.',
  IMAGE_UNEXPECTED_EOS: 'A picture in it is cut off.',
  IMAGE_MIME_TYPE_INVALID: 'A picture is of another kind than it says.',
  IMAGE_FEATURES_UNSUPPORTED: 'A picture has colours or an animation that glTF does not know.',
  UNSUPPORTED_EXTENSION: 'It uses an extension that was not checked.',
  NODE_SKINNED_MESH_NON_ROOT: 'A mesh that is held by a skin hangs from another node, whose place does not count.',
  NODE_SKINNED_MESH_LOCAL_TRANSFORMS: 'A mesh that is held by a skin has a place of its own, which does not count.',
  MULTIPLE_EXTENSIONS: 'Two extensions say different things of the same.',
  INVALID_JSON: 'Its description is no well-formed JSON.',
  UNDEFINED_PROPERTY: 'Something that has to be said in it is missing.',
  UNEXPECTED_PROPERTY: 'It says something that glTF does not know.',
}

/** A finding of the validator in plain words; as the validator says it where there are none here. */
export function plainWords(code: string, message: string): string {
  return WORDS[code] ?? message
}

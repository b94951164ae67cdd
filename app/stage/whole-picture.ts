/** The vertex shader of whatever is drawn over the whole target: `at` goes from 0, 0 at the lower left to 1, 1. */
export const WHOLE_PICTURE = /* glsl */ `
  varying vec2 at;
  void main() {
    at = uv;
    gl_Position = vec4(position.xy, 0.0, 1.0);
  }`

// Elements are drawn without vertex buffers: vertex i is corner i % 6 of element i / 6, two triangles each; points,
// corners, heights and colours are looked up in textures. A new colouring is a new small texture.

const lookups = /* glsl */ `
ivec2 place(int i, sampler2D t) { int w = textureSize(t, 0).x; return ivec2(i % w, i / w); }
ivec2 place(int i, usampler2D t) { int w = textureSize(t, 0).x; return ivec2(i % w, i / w); }
`;

export const surfaceVertex = /* glsl */ `
precision highp float;
precision highp int;
precision highp usampler2D;
uniform mat4 modelMatrix, viewMatrix, projectionMatrix;
uniform sampler2D points, pointNormals, heights, colours;
uniform usampler2D corners;
uniform int face;          // 0 the mesh, 1 the top of the laminate, -1 its bottom
uniform float exaggeration;
flat out int element;
flat out vec4 filled;
flat out float gone;
out vec3 sides, seen, world;
${lookups}
void main() {
  int e = gl_VertexID / 6, v = gl_VertexID % 6;
  uvec4 four = texelFetch(corners, place(e, corners), 0);
  bool triangle = four.z == four.w;
  int corner = v < 3 ? v : (v == 3 ? 0 : v - 2);
  int node = int(corner == 0 ? four.x : corner == 1 ? four.y : corner == 2 ? four.z : four.w);
  vec3 p = texelFetch(points, place(node, points), 0).xyz;
  vec2 h = texelFetch(heights, place(e, heights), 0).xy;
  if (face != 0) p += texelFetch(pointNormals, place(node, pointNormals), 0).xyz * (face > 0 ? h.y : h.x) * exaggeration;
  gone = face != 0 && h.y <= h.x ? 1.0 : 0.0;
  // Distance from each side of the element; the diagonal of a quadrilateral is none.
  int k = v % 3;
  sides = vec3(k == 0, k == 1, k == 2);
  if (!triangle) { if (v < 3) sides.y = 1.0; else sides.z = 1.0; }
  element = e;
  filled = texelFetch(colours, place(e, colours), 0);
  vec4 w = modelMatrix * vec4(p, 1.0);
  world = w.xyz;
  vec4 m = viewMatrix * w;
  seen = m.xyz;
  gl_Position = projectionMatrix * m;
}`;

export const surfaceFragment = /* glsl */ `
precision highp float;
precision highp int;
flat in int element;
flat in vec4 filled;
flat in float gone;
in vec3 sides, seen, world;
uniform vec4 cut;          // keeps dot(world, cut.xyz) <= cut.w
uniform int selected, hovered, twoSided;
uniform float lines;
uniform vec3 backColour;
out vec4 colour;
void main() {
  if (gone > 0.5 || dot(world, cut.xyz) > cut.w) discard;
  vec3 n = normalize(cross(dFdx(seen), dFdy(seen)));
  if (n.z < 0.0) n = -n;
  float light = 0.74 + 0.26 * clamp(dot(n, normalize(vec3(-0.25, 0.55, 0.8))), 0.0, 1.0);
  vec3 c = filled.rgb;
  float code = filled.a * 255.0;
  bool hatched = code > 100.0 && code < 200.0;
  if (twoSided == 1 && !gl_FrontFacing && code > 200.0) { c = backColour; hatched = true; }
  if (hatched) {
    float stripe = abs(fract((gl_FragCoord.x + gl_FragCoord.y) / 9.0) - 0.5) * 2.0;
    c = mix(c, vec3(0.13, 0.15, 0.17), 0.55 * (1.0 - smoothstep(0.22, 0.36, stripe)));
  }
  c *= light;
  vec3 width = fwidth(sides);
  vec3 near = sides / max(width, vec3(1e-6));
  float d = min(near.x, min(near.y, near.z));
  float size = 1.0 / max(max(width.x, width.y), max(width.z, 1e-6));  // of the element, in pixels
  float strength = lines * smoothstep(4.0, 14.0, size) * (code < 100.0 ? 0.35 : 1.0);
  c = mix(c, vec3(0.13, 0.15, 0.17), 0.4 * strength * (1.0 - smoothstep(0.15, 0.8, d)));
  if (element == hovered) c = mix(c, vec3(1.0), 0.35);
  if (element == selected) {
    c = mix(c, vec3(1.0), 0.25 + 0.0 * d);
    float rim = min(3.0, size * 0.2);
    c = mix(c, d < rim * 0.6 ? vec3(0.1, 0.11, 0.13) : vec3(1.0), 1.0 - smoothstep(rim, rim + 1.0, d));
  }
  colour = vec4(c, 1.0);
}`;

/** Numbers of elements as colours, for the mouse. */
export const pickFragment = /* glsl */ `
precision highp float;
precision highp int;
flat in int element;
flat in float gone;
in vec3 world;
uniform vec4 cut;
uniform int partNumber;
out vec4 colour;
void main() {
  if (gone > 0.5 || dot(world, cut.xyz) > cut.w) discard;
  int i = element + 1;
  colour = vec4(float(i & 255), float((i >> 8) & 255), float((i >> 16) & 255), float(128 + partNumber)) / 255.0;
}`;

/** Edges of layers: at drop-offs, at the border, and in a cut. */
export const wallVertex = /* glsl */ `
precision highp float;
uniform mat4 modelMatrix, viewMatrix, projectionMatrix;
in vec3 position, along;
in float z;
in vec4 tint;
in float level;
uniform float exaggeration;
out vec4 filled;
out vec3 world, seen;
out float across;
void main() {
  vec4 w = modelMatrix * vec4(position + along * z * exaggeration, 1.0);
  world = w.xyz;
  vec4 m = viewMatrix * w;
  seen = m.xyz;
  filled = tint;
  across = level;
  gl_Position = projectionMatrix * m;
}`;

export const wallFragment = /* glsl */ `
precision highp float;
in vec4 filled;
in vec3 world, seen;
in float across;
uniform vec4 cut;
uniform float slack;
out vec4 colour;
void main() {
  if (dot(world, cut.xyz) > cut.w + slack) discard;
  vec3 c = filled.rgb;
  float code = filled.a * 255.0;
  if (code > 100.0 && code < 200.0) {
    vec2 g = fract(gl_FragCoord.xy / 6.0) - 0.5;
    c = mix(c, vec3(0.13, 0.15, 0.17), 0.6 * (1.0 - smoothstep(0.12, 0.26, length(g))));
  }
  vec3 n = normalize(cross(dFdx(seen), dFdy(seen)));
  c *= 0.8 + 0.2 * abs(n.z);
  float w = fwidth(across);
  float d = min(across, 1.0 - across) / max(w, 1e-6);
  c = mix(c, vec3(0.13, 0.15, 0.17), 0.75 * (1.0 - smoothstep(0.2, 1.0, d)) * smoothstep(1.5, 4.0, 1.0 / max(w, 1e-6)));
  colour = vec4(c, 1.0);
}`;

/** Arrows keep their breadth whichever way they are turned. */
export const arrowVertex = /* glsl */ `
precision highp float;
uniform mat4 modelMatrix, viewMatrix, projectionMatrix;
in vec3 position, from, towards;
in float rim;
uniform float size, lift;
flat out float isRim;
out vec3 world;
void main() {
  vec4 root = modelMatrix * vec4(from, 1.0);
  world = root.xyz;
  vec3 r = (viewMatrix * root).xyz;
  vec3 d = (viewMatrix * modelMatrix * vec4(towards, 0.0)).xyz;
  vec2 flat2 = d.xy;
  vec2 side = length(flat2) > 1e-6 ? normalize(vec2(-flat2.y, flat2.x)) : vec2(1.0, 0.0);
  vec3 p = r + size * (position.x * d + position.y * vec3(side, 0.0));
  p.z += lift * size * (rim > 0.5 ? 0.8 : 1.0);
  isRim = rim;
  gl_Position = projectionMatrix * vec4(p, 1.0);
}`;

export const arrowFragment = /* glsl */ `
precision highp float;
flat in float isRim;
in vec3 world;
uniform vec4 cut;
uniform vec3 tint;
out vec4 colour;
void main() {
  if (dot(world, cut.xyz) > cut.w) discard;
  colour = vec4(isRim > 0.5 ? vec3(1.0) : tint, 1.0);
}`;

export const lineVertex = /* glsl */ `
precision highp float;
uniform mat4 modelMatrix, viewMatrix, projectionMatrix;
in vec3 position;
out vec3 world;
void main() {
  vec4 w = modelMatrix * vec4(position, 1.0);
  world = w.xyz;
  gl_Position = projectionMatrix * viewMatrix * w;
}`;

export const lineFragment = /* glsl */ `
precision highp float;
in vec3 world;
uniform vec4 cut;
uniform float slack;
uniform vec3 tint;
out vec4 colour;
void main() {
  if (dot(world, cut.xyz) > cut.w + slack) discard;
  colour = vec4(tint, 1.0);
}`;

import {
  displayParts,
  displayTable,
  halvesIn,
  luma709,
  warningColours,
  type Looking,
  type PackedView,
} from '@shale/core';

/** Ways of looking by their numbers in the shader. */
const channels = { colour: 0, red: 1, green: 2, blue: 3, alpha: 4, luminance: 5 } as const;

/** The table of display values as a texture: so many columns, and a row more than as many for light of 1. */
const side = 256;

/** A triangle that covers the view. */
const vertexWords = `#version 300 es
void main() {
  gl_Position = vec4(vec2(gl_VertexID == 1 ? 3 : -1, gl_VertexID == 2 ? 3 : -1), 0, 1);
}`;

/** `showView` of core for every pixel: light to codes by core's own table, exposed, divided by its alpha, painted over where it is warned of. */
const pixelWords = `#version 300 es
precision highp float;
precision highp int;
precision highp sampler2D;
precision highp usampler2D;
uniform sampler2D light;
uniform sampler2D shown;
uniform usampler2D warnings;
uniform int channel;
uniform float scale;
uniform bool shares;
uniform bool warns;
uniform uint bits[${warningColours.length}];
uniform vec3 colours[${warningColours.length}];
uniform bool hatched[${warningColours.length}];
out vec4 pixel;

float displayed(float value) {
  int part = int(clamp(value * scale, 0.0, ${displayParts}.0));
  return texelFetch(shown, ivec2(part % ${side}, part / ${side}), 0).r;
}
float code(float value) {
  return floor(clamp(value, 0.0, 1.0) * 255.0 + 0.5) / 255.0;
}
void main() {
  int height = textureSize(light, 0).y;
  ivec2 at = ivec2(int(gl_FragCoord.x), height - 1 - int(gl_FragCoord.y));
  vec4 seen = texelFetch(light, at, 0);
  if (channel == 0) {
    vec3 colour = shares && seen.a > 0.0 ? seen.rgb / seen.a : seen.rgb;
    pixel = vec4(displayed(colour.r), displayed(colour.g), displayed(colour.b), code(seen.a));
    float most = max(pixel.r, max(pixel.g, pixel.b));
    if (shares && !(seen.a > 0.0) && most > 0.0)
      pixel = vec4(code(pixel.r / most), code(pixel.g / most), code(pixel.b / most), most);
  } else {
    float grey = channel == 4 ? code(seen.a)
      : displayed(channel == 5 ? dot(seen.rgb, vec3(${luma709.join(', ')})) : seen[channel - 1]);
    pixel = vec4(vec3(grey), 1);
  }
  if (!warns) return;
  uint mine = texelFetch(warnings, at, 0).r;
  for (int kind = 0; kind < ${warningColours.length}; kind++) {
    if ((mine & bits[kind]) == 0u) continue;
    pixel = vec4(hatched[kind] && (((at.x + at.y) >> 1) & 1) == 1 ? vec3(20.0 / 255.0) : colours[kind], 1);
    return;
  }
}`;

/** Names by which drivers say that a processor stands in for a card: core's loops are quicker there. */
const standIns = /swiftshader|llvmpipe|software|basic render/i;

/** A graphics card that shows views in light. */
export class Card {
  private gamma: number | undefined;
  private readonly places: Record<string, WebGLUniformLocation | null>;

  private constructor(
    private readonly canvas: OffscreenCanvas,
    private readonly gl: WebGL2RenderingContext,
    private readonly program: WebGLProgram,
  ) {
    const names = ['light', 'shown', 'warnings', 'channel', 'scale', 'shares', 'warns', 'bits', 'colours', 'hatched'];
    this.places = Object.fromEntries(names.map((name) => [name, gl.getUniformLocation(program, name)]));
    gl.useProgram(program);
    names.slice(0, 3).forEach((name, unit) => {
      gl.activeTexture(gl.TEXTURE0 + unit);
      gl.bindTexture(gl.TEXTURE_2D, gl.createTexture());
      // Every texel by itself.
      for (const side of [gl.TEXTURE_MIN_FILTER, gl.TEXTURE_MAG_FILTER])
        gl.texParameteri(gl.TEXTURE_2D, side, gl.NEAREST);
      gl.uniform1i(this.places[name]!, unit);
    });
    gl.uniform1uiv(
      this.places.bits!,
      warningColours.map(([bit]) => bit),
    );
    gl.uniform3fv(
      this.places.colours!,
      warningColours.flatMap(([, colour]) => colour.map((value) => value / 255)),
    );
    gl.uniform1iv(
      this.places.hatched!,
      warningColours.map(([, , isHatched]) => (isHatched ? 1 : 0)),
    );
    gl.pixelStorei(gl.UNPACK_ALIGNMENT, 1);
    gl.disable(gl.BLEND);
    gl.disable(gl.DITHER);
  }

  /** The card of this machine; undefined where there is none. @param takes whether one of this name is used */
  static open(takes: (name: string) => boolean = (name) => !standIns.test(name)): Card | undefined {
    if (typeof OffscreenCanvas === 'undefined') return undefined;
    const canvas = new OffscreenCanvas(1, 1);
    const gl = canvas.getContext('webgl2', { premultipliedAlpha: false, antialias: false, depth: false });
    if (!gl) return undefined;
    const named = gl.getExtension('WEBGL_debug_renderer_info');
    const name = String(gl.getParameter(named ? named.UNMASKED_RENDERER_WEBGL : gl.RENDERER));
    const program = takes(name) ? programOf(gl) : undefined;
    if (program) return new Card(canvas, gl, program);
    gl.getExtension('WEBGL_lose_context')?.loseContext();
    return undefined;
  }

  /** What {@link showPacked} shows, within a code; undefined where the card cannot: it is gone, or the view is larger than it takes. */
  show(bytes: Uint8Array, looking: Looking): ImageBitmap | undefined {
    const view = halvesIn(bytes);
    return view && this.draw(view, looking) ? this.canvas.transferToImageBitmap() : undefined;
  }

  /** The codes of what {@link show} would give, from the top left. */
  read(bytes: Uint8Array, looking: Looking): Uint8Array | undefined {
    const view = halvesIn(bytes);
    if (!view || !this.draw(view, looking)) return undefined;
    const { width, height } = view;
    const upwards = new Uint8Array(width * height * 4);
    this.gl.readPixels(0, 0, width, height, this.gl.RGBA, this.gl.UNSIGNED_BYTE, upwards);
    const pixels = new Uint8Array(upwards.length);
    for (let y = 0; y < height; y += 1)
      pixels.set(upwards.subarray((height - 1 - y) * width * 4, (height - y) * width * 4), y * width * 4);
    return pixels;
  }

  private draw({ width, height, alpha, halves, warnings }: PackedView, looking: Looking): boolean {
    const { gl, canvas, places } = this;
    if (gl.isContextLost() || Math.max(width, height) > gl.getParameter(gl.MAX_TEXTURE_SIZE)) return false;
    canvas.width = width;
    canvas.height = height;
    gl.viewport(0, 0, width, height);
    gl.useProgram(this.program);
    gl.activeTexture(gl.TEXTURE0);
    gl.texImage2D(gl.TEXTURE_2D, 0, gl.RGBA16F, width, height, 0, gl.RGBA, gl.HALF_FLOAT, halves);
    if (this.gamma !== looking.gamma) {
      const table = new Uint8Array(side * (side + 1));
      table.set(displayTable(looking.gamma));
      gl.activeTexture(gl.TEXTURE1);
      gl.texImage2D(gl.TEXTURE_2D, 0, gl.R8, side, side + 1, 0, gl.RED, gl.UNSIGNED_BYTE, table);
      this.gamma = looking.gamma;
    }
    gl.activeTexture(gl.TEXTURE2);
    const all = looking.warns ? warnings : new Uint8Array(1);
    const [across, down] = looking.warns ? [width, height] : [1, 1];
    gl.texImage2D(gl.TEXTURE_2D, 0, gl.R8UI, across, down, 0, gl.RED_INTEGER, gl.UNSIGNED_BYTE, all);
    gl.uniform1i(places.channel!, channels[looking.channel]);
    gl.uniform1f(places.scale!, displayParts * 2 ** looking.exposure);
    gl.uniform1i(places.shares!, alpha === 'premultiplied' ? 1 : 0);
    gl.uniform1i(places.warns!, looking.warns ? 1 : 0);
    gl.drawArrays(gl.TRIANGLES, 0, 3);
    return gl.getError() === gl.NO_ERROR && !gl.isContextLost();
  }
}

/** The program on this card; undefined where it is not taken. */
function programOf(gl: WebGL2RenderingContext): WebGLProgram | undefined {
  const program = gl.createProgram();
  for (const [kind, words] of [
    [gl.VERTEX_SHADER, vertexWords],
    [gl.FRAGMENT_SHADER, pixelWords],
  ] as const) {
    const shader = gl.createShader(kind);
    if (!shader) return undefined;
    gl.shaderSource(shader, words);
    gl.compileShader(shader);
    gl.attachShader(program, shader);
  }
  gl.linkProgram(program);
  return gl.getProgramParameter(program, gl.LINK_STATUS) ? program : undefined;
}

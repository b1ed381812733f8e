import * as THREE from "three";

/** So many surfaces of a cutter one behind another are told from each other; what is behind them is not cut. */
const layers = 4;

/**
 * Where closed meshes begin and end behind each pixel of a view: their surfaces one behind another, by depth peeling (Everitt, Interactive
 * Order-Independent Transparency, 2001, from memory). A layer of the array for each mesh; in it four depths, less than 0 for surfaces
 * that are seen from within, and 2 where there is none.
 */
export class Peel {
  readonly depths = { value: null as THREE.Texture | null };
  private all: THREE.WebGLArrayRenderTarget | undefined;
  private one: THREE.WebGLRenderTarget[] = [];
  private before = { value: null as THREE.Texture | null };
  private material = new THREE.ShaderMaterial({
    side: THREE.DoubleSide,
    uniforms: { before: this.before },
    vertexShader: "void main() { gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0); }",
    fragmentShader: /* glsl */ `
      uniform highp sampler2D before;
      void main() {
        if (gl_FragCoord.z <= abs(texelFetch(before, ivec2(gl_FragCoord.xy), 0).r) + 1e-6) discard;
        gl_FragColor = vec4(gl_FrontFacing ? gl_FragCoord.z : -gl_FragCoord.z, 0.0, 0.0, 1.0);
      }`,
  });
  private gather = new THREE.ShaderMaterial({
    depthTest: false,
    depthWrite: false,
    uniforms: Object.fromEntries(
      Array.from({ length: layers }, (_, k) => [`d${k}`, { value: null as THREE.Texture | null }]),
    ),
    vertexShader: "void main() { gl_Position = vec4(position.xy, 0.0, 1.0); }",
    fragmentShader: /* glsl */ `
      ${Array.from({ length: layers }, (_, k) => `uniform highp sampler2D d${k};`).join("\n")}
      void main() {
        ivec2 at = ivec2(gl_FragCoord.xy);
        gl_FragColor = vec4(${Array.from({ length: layers }, (_, k) => `texelFetch(d${k}, at, 0).r`).join(", ")});
      }`,
  });
  private full = new THREE.Mesh(new THREE.PlaneGeometry(2, 2), this.gather);
  private none = new THREE.DataTexture(new Float32Array([0]), 1, 1, THREE.RedFormat, THREE.FloatType);

  /** Looks at meshes from a camera, each the only one of its kind, in a rectangle of a target of a size in pixels. */
  look(
    gl: THREE.WebGLRenderer,
    cutters: THREE.Object3D[][],
    camera: THREE.Camera,
    width: number,
    height: number,
    view: THREE.Vector4,
  ) {
    if (cutters.length === 0) return;
    const was = {
      target: gl.getRenderTarget(),
      clear: gl.getClearColor(new THREE.Color()),
      alpha: gl.getClearAlpha(),
      tone: gl.toneMapping,
    };
    this.fit(width, height, cutters.length);
    gl.toneMapping = THREE.NoToneMapping;
    this.full.frustumCulled = false;
    for (const [n, meshes] of cutters.entries()) {
      this.one.forEach((target, k) => {
        target.viewport.copy(view);
        target.scissor.copy(view);
        target.scissorTest = true;
        gl.setRenderTarget(target);
        gl.setClearColor(new THREE.Color(2, 0, 0), 1);
        gl.clear();
        this.before.value = k > 0 ? this.one[k - 1]!.texture : null;
        this.draw(gl, meshes, camera);
        this.gather.uniforms[`d${k}`]!.value = target.texture;
      });
      this.all!.viewport.copy(view);
      this.all!.scissor.copy(view);
      this.all!.scissorTest = true;
      gl.setRenderTarget(this.all!, n);
      gl.render(this.full, camera);
    }
    gl.setRenderTarget(was.target);
    gl.setClearColor(was.clear, was.alpha);
    gl.toneMapping = was.tone;
    this.depths.value = this.all!.texture;
  }

  private draw(gl: THREE.WebGLRenderer, meshes: THREE.Object3D[], camera: THREE.Camera) {
    this.before.value ??= this.none;
    const scene = new THREE.Scene();
    for (const m of meshes as THREE.Mesh[]) {
      const one = new THREE.Mesh(m.geometry, this.material);
      one.matrixAutoUpdate = false;
      one.matrix.copy(m.matrixWorld);
      one.frustumCulled = false;
      scene.add(one);
    }
    gl.render(scene, camera);
  }

  private fit(width: number, height: number, count: number) {
    if (this.all?.width === width && this.all.height === height && this.all.depth >= count) return;
    this.dispose();
    const options = {
      type: THREE.FloatType,
      minFilter: THREE.NearestFilter,
      magFilter: THREE.NearestFilter,
      generateMipmaps: false,
    } as const;
    this.none.needsUpdate = true;
    this.one = Array.from(
      { length: layers },
      () => new THREE.WebGLRenderTarget(width, height, { ...options, format: THREE.RedFormat }),
    );
    this.all = new THREE.WebGLArrayRenderTarget(width, height, count, { ...options, depthBuffer: false });
  }

  dispose() {
    for (const t of this.one) t.dispose();
    this.all?.dispose();
    this.one = [];
    this.all = undefined;
    this.depths.value = null;
  }
}

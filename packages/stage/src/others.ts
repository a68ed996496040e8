import type { Other, StageMaterial } from './material';

/** What is drawn beside the own blend: a material, what it lies on, and the colours that were painted for it. */
interface Shown {
  of: Other;
  material: StageMaterial;
  colours: WebGLBuffer | null;
}

/** Other blends on parts of the specimen. A material stays while its key does, so that nothing is built twice. */
export class Others {
  private shown: readonly Shown[] = [];

  constructor(
    private readonly gl: WebGL2RenderingContext,
    private readonly make: () => StageMaterial,
  ) {}

  /** Those whose program is in use. */
  get ready(): readonly Shown[] {
    return this.shown.filter((o) => o.material.ready);
  }
  /** Whether a program of one of them is still being built. */
  get pending(): boolean {
    return this.shown.some((o) => o.material.pending);
  }

  set(others: readonly Other[]): void {
    const before = new Map(this.shown.map((o) => [o.of.key, o.material]));
    this.dropColours();
    this.shown = others.map((of) => {
      const material = before.get(of.key) ?? this.make();
      before.delete(of.key);
      material.set(of);
      return { of, material, colours: of.colours ? this.up(of.colours) : null };
    });
    before.forEach((material) => material.dispose());
  }

  private up(colours: Float32Array): WebGLBuffer {
    const { gl } = this;
    const buffer = gl.createBuffer() as WebGLBuffer;
    gl.bindVertexArray(null);
    gl.bindBuffer(gl.ARRAY_BUFFER, buffer);
    gl.bufferData(gl.ARRAY_BUFFER, colours, gl.STATIC_DRAW);
    return buffer;
  }
  private dropColours = (): void => this.shown.forEach(({ colours }) => this.gl.deleteBuffer(colours));

  drop(): void {
    this.dropColours();
    this.shown.forEach(({ material }) => material.dispose());
    this.shown = [];
  }
}

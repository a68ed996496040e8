// Runs in the browser: an independent reader of MaterialX reads what is written, and draws it.
import { writeMaterialX } from '@pebble/formats/materialx';
import type { GraphContext, MasterDocument } from '@pebble/core';
import { MasterMaterials, evaluate, flatDomain, givenOutputs, linkTo, makeMaster, makeOperation, optimise, valueOf, valueRows } from '@pebble/core';
import { MaterialXLoader } from 'three/examples/jsm/loaders/MaterialXLoader.js';
import { createStrictInterfaceValidator } from 'three/examples/jsm/loaders/materialx/MaterialXInterfaceValidation.js';
import * as THREE from 'three/webgpu';

const N = 32;
const NOTHING: GraphContext = { surfaces: {}, blends: {}, masters: {} };
type Steps = Record<string, [step: string, inputs?: MasterDocument['operations'][string]['inputs'], settings?: Record<string, string | number>]>;
const operations = (steps: Steps): MasterDocument['operations'] =>
  Object.fromEntries(
    Object.entries(steps).map(([id, [step, inputs = {}, settings = {}]], i) => [id, makeOperation(step, i + 1, { inputs, settings })]),
  );

/** Graphs of standard operations and of ours; nothing in them works on whole numbers, which MaterialX does not have. */
const GRAPHS: Record<string, MasterDocument> = {
  ramp: makeMaster('Ramp', {
    operations: operations({ r: ['ramplr', { valuel: valueOf(0.1, 0.2, 0.3), valuer: valueOf(0.9, 0.7, 0.2) }] }),
    outputs: { baseColor: linkTo('r') },
  }),
  arithmetic: makeMaster('Arithmetic & <more> "of it"', {
    operations: operations({
      uv: ['texcoord'],
      u: ['extract', { in: linkTo('uv') }, { index: 0 }],
      v: ['extract', { in: linkTo('uv') }, { index: 1 }],
      s: ['sin', { in: linkTo('u') }],
      p: ['power', { in1: linkTo('v'), in2: valueOf(2.2) }],
      m: ['max', { in1: linkTo('s'), in2: linkTo('p') }],
      c: ['clamp', { in: linkTo('m'), low: valueOf(0.1), high: valueOf(0.8) }],
      f: ['fract', { in: linkTo('t') }],
      t: ['multiply', { in1: linkTo('uv'), in2: valueOf(3) }],
      fx: ['extract', { in: linkTo('f') }, { index: 0 }],
      k: ['smoothstep', { in: linkTo('fx'), low: valueOf(0.2), high: valueOf(0.7) }],
      colour: ['combine3', { in1: linkTo('c'), in2: linkTo('k'), in3: linkTo('i') }],
      i: ['ifgreater', { value1: linkTo('u'), value2: linkTo('v'), in1: valueOf(0.9), in2: valueOf(0.2) }],
    }),
    outputs: { baseColor: linkTo('colour') },
  }),
  gauge: makeMaster('Gauge around a middle', {
    parameters: {
      level: { order: 1, name: 'level', group: null, help: 'How full', holds: { kind: 'number', value: [0.63], low: 0, high: 1, unit: '' } },
      tint: { order: 2, name: 'level', group: null, help: 'A name that clashes', holds: { kind: 'colour', value: '#4fb7c9' } },
    },
    operations: operations({
      w: ['polar', { outward: valueOf(1.5) }],
      far: ['extract', { in: linkTo('w') }, { index: 1 }],
      mask: ['clamp', { in: linkTo('far') }],
      g: ['gauge', { mask: linkTo('mask'), level: { from: 'parameter', parameter: 'level' }, steps: valueOf(8) }],
      lit: ['mix', { bg: valueOf(0.1, 0.1, 0.1), fg: { from: 'parameter', parameter: 'tint' }, mix: linkTo('g') }],
      hsv: ['hsvadjust', { in: linkTo('lit'), amount: valueOf(0.1, 0.9, 1.1) }],
    }),
    outputs: { baseColor: linkTo('hsv') },
  }),
};

async function drawn(node: THREE.Node): Promise<number[]> {
  const renderer = new THREE.WebGPURenderer({ forceWebGL: true, antialias: false });
  await renderer.init();
  renderer.outputColorSpace = THREE.LinearSRGBColorSpace;
  renderer.toneMapping = THREE.NoToneMapping;
  const material = new THREE.MeshBasicNodeMaterial();
  material.colorNode = node as never;
  const scene = new THREE.Scene();
  scene.add(new THREE.Mesh(new THREE.PlaneGeometry(2, 2), material));
  const target = new THREE.RenderTarget(N, N, { type: THREE.FloatType, depthBuffer: false });
  renderer.setRenderTarget(target);
  renderer.render(scene, new THREE.OrthographicCamera(-1, 1, 1, -1, 0, 1));
  const read = (await renderer.readRenderTargetPixelsAsync(target, 0, 0, N, N)) as Float32Array;
  renderer.dispose();
  // Rows come from the bottom.
  return Array.from({ length: N * N * 3 }, (_, k) => {
    const [pixel, c] = [Math.floor(k / 3), k % 3];
    return read[((N - 1 - Math.floor(pixel / N)) * N + (pixel % N)) * 4 + c];
  });
}

async function read() {
  const out = [];
  for (const [name, document] of Object.entries(GRAPHS)) {
    const material = new MasterMaterials().of(document, NOTHING);
    const { outputs } = optimise(givenOutputs(material.near));
    const text = writeMaterialX({
      name: document.name,
      help: document.help,
      outputs,
      rows: valueRows(document, NOTHING),
      values: material.values,
      drawn: { as: 'solid', cut: 0.5 },
      fileOf: () => '',
    });
    const { materials, errors, warnings } = new MaterialXLoader().parse(text, {
      interfaceValidator: createStrictInterfaceValidator(),
      throwOnErrors: false,
    });
    const [material3] = Object.values(materials) as { colorNode: THREE.Node }[];
    const { baseColor } = evaluate({ baseColor: outputs['baseColor'] }, { domain: flatDomain(N, N, 1), values: material.values });
    const pixels = errors.length ? [] : await drawn(material3.colorNode);
    const off = pixels.map((v, k) => Math.abs(v - baseColor[k % 3][Math.floor(k / 3)])).sort((a, b) => a - b);
    const varies = Math.max(...baseColor.map((plane) => Math.max(...plane) - Math.min(...plane)));
    out.push({ name, varies, errors, warnings, p99: off[Math.floor(off.length * 0.99)] ?? null, worst: off.at(-1) ?? null });
  }
  return out;
}

Object.assign(window, { pebble: { read } });

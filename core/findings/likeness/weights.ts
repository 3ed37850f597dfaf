import type { Kind } from '../../../contract/kinds.ts';

/** Of a logistic regression. */
export interface Weights {
  /** The logarithm of the odds where nothing is alike. */
  base: number;
  /** Of each measure, by its name: of itself, its square, its eighth power and, of looks, itself times the name's likeness. */
  measures: Readonly<Record<string, readonly number[]>>;
  /** Of the odds by these, and of how far they are ahead of the best rival's. */
  settled: { base: number; odds: number; lead: number };
}

/**
 * Fitted to open collections of pictures, models, sounds and texts, of which half was left out to see what they are worth: how, and
 * what came out, stands in docs/likeness.md. `named` is for what has no signature. Made by `bench likeness`; not by hand.
 */
export const fittedWeights: Readonly<Partial<Record<Kind, Weights>> & { named: Weights }> = {
  picture: {
    base: -14.17,
    measures: {
      'same name': [0.167, 0.167, 0.167],
      'parts of the name': [1.238, 2.065, -0.4565],
      'what they share': [1.367, 1.717, 0.1228],
      'same numbers': [0.6973, 0.6973, 0.6973],
      folders: [-1.419, -0.1618, -0.3497],
      'same folder': [0.403, 0.403, 0.403],
      size: [-0.8038, 1.543, -3.492],
      'same ending': [1.007, 1.007, 1.007],
      waves: [3.093, -0.2878, 0.5377, 0.148],
      'squares alike': [-1.971, 2.269, 1.152, 0.4248],
      'light alike': [-0.2107, 1.698, -1.007, -0.9898],
      'light equal': [1.673, 1.604, -3.163, -1.303],
      'squares near': [1.804, -0.144, -1.935, 0.7988],
      pattern: [3.571, 1.329, 0.6327, -2.435],
      'not plain': [1.008, -0.6969, 0.3321, -2.023],
      colours: [1.012, 0.9992, -0.311, 0.6843],
      'same shape': [0.2738, 0.2738, 0.2738, 0.5181],
      'same size': [-0.06782, -0.06782, -0.06782, -0.5682],
    },
    settled: {
      base: -0.4832,
      odds: 0.7048,
      lead: 0.5849,
    },
  },
  model: {
    base: -14.48,
    measures: {
      'same name': [0.9054, 0.9054, 0.9054],
      'parts of the name': [-0.3535, 2.688, 0.3869],
      'what they share': [-0.8607, 2.436, 0.732],
      'same numbers': [0.1783, 0.1783, 0.1783],
      folders: [-0.2995, -0.1287, -0.02228],
      'same folder': [-0.03321, -0.03321, -0.03321],
      size: [3.11, 3.928, -2.966],
      'same ending': [0.875, 0.875, 0.875],
      distances: [1.355, 2.777, -1.915, 0.5793],
      turns: [0.8625, 1.397, -2.831, 0.7767],
      proportions: [1.448, 0.8836, -1.45, -0.2187],
      extents: [2.786, -0.002824, -2.769, -0.7224],
      'extents but for scale': [1.259, 0.5051, -0.2368, -0.1095],
      triangles: [-0.03615, 0.3782, -1.092, -0.5555],
      names: [1.926, 0.769, -1.464, -0.1311],
      'same triangles': [-0.858, -0.8043, 1.793, -0.1513],
      'many triangles': [1.94, 0.228, 0.8198, -1.676],
      'same unwrapping': [-1.035, 0.323, 2.06, -0.2802],
      'much unwrapping': [3.48, -0.04596, -0.1892, -2.001],
    },
    settled: {
      base: -0.3408,
      odds: 0.8811,
      lead: 0.5761,
    },
  },
  sound: {
    base: -8.755,
    measures: {
      'same name': [0.6072, 0.6072, 0.6072],
      'parts of the name': [0.6878, 0.9778, 0.6425],
      'what they share': [0.4403, 0.4413, 0.01834],
      'same numbers': [0.254, 0.254, 0.254],
      folders: [0.2934, 0.349, 0.1396],
      'same folder': [0.01293, 0.01293, 0.01293],
      size: [-1.214, -1.603, -2.051],
      'same ending': [-0.000004377, -0.000004377, -0.000004377],
      bands: [0.5152, 0.8449, 2.083, 0.1989],
      course: [0.5402, 0.7759, -0.03359, 0.1246],
      length: [1.547, 0.2776, -0.5215, 0.3822],
      loudness: [0.02931, 0.01973, -0.1329, -0.347],
      'one end': [2.266, 2.521, 0.07805, -0.339],
      'other end': [0.5466, 0.9931, 0.01098, -0.4371],
      'tone of one end': [1.221, 1.314, 1.623, 0.04138],
    },
    settled: {
      base: -0.8048,
      odds: 0.7018,
      lead: 0.4929,
    },
  },
  text: {
    base: -14.62,
    measures: {
      'same name': [0.173, 0.173, 0.173],
      'parts of the name': [-0.6682, 2.795, 0.3696],
      'what they share': [1.255, 2.366, 0.2422],
      'same numbers': [1.018, 1.018, 1.018],
      folders: [-0.8199, -1.304, -1.286],
      'same folder': [0.7687, 0.7687, 0.7687],
      size: [1.423, 1.515, -1.472],
      'same ending': [0.5124, 0.5124, 0.5124],
      words: [0.1152, -1.194, 0.2556, -1.489],
      'pairs of words': [4.21, 4.5, -0.5544, -0.5572],
      'many pairs': [1.406, 3.532, 1.142, -0.8449],
      length: [1.378, -0.6258, -0.6779, -1.506],
    },
    settled: {
      base: -0.7766,
      odds: 0.5853,
      lead: 1.022,
    },
  },
  named: {
    base: -8.734,
    measures: {
      'same name': [0.8397, 0.8397, 0.8397],
      'parts of the name': [3.421, -1.634, -1.987],
      'what they share': [5.806, -0.5972, -0.6204],
      'same numbers': [0.7043, 0.7043, 0.7043],
      folders: [-1.629, -1.608, -1.001],
      'same folder': [0.8132, 0.8132, 0.8132],
      size: [-0.9718, 1.783, -0.3213],
      'same ending': [0.9631, 0.9631, 0.9631],
    },
    settled: {
      base: -0.3105,
      odds: 0.8649,
      lead: 0.4284,
    },
  },
};

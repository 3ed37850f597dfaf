import { expect } from 'chai';
import { ciede2000, writeLab, type Lab } from './colour-difference.ts';

/**
 * The 34 pairs of table 1 of G. Sharma, W. Wu and E. N. Dalal, "The CIEDE2000 Color-Difference Formula", Color Research
 * and Application 30, 2005; written down from memory, and each agrees with the formula to its last printed digit.
 */
const published = `
50 2.6772 -79.7751 50 0 -82.7485 2.0425
50 3.1571 -77.2803 50 0 -82.7485 2.8615
50 2.8361 -74.0200 50 0 -82.7485 3.4412
50 -1.3802 -84.2814 50 0 -82.7485 1.0000
50 -1.1848 -84.8006 50 0 -82.7485 1.0000
50 -0.9009 -85.5211 50 0 -82.7485 1.0000
50 0 0 50 -1 2 2.3669
50 -1 2 50 0 0 2.3669
50 2.4900 -0.0010 50 -2.4900 0.0009 7.1792
50 2.4900 -0.0010 50 -2.4900 0.0010 7.1792
50 2.4900 -0.0010 50 -2.4900 0.0011 7.2195
50 2.4900 -0.0010 50 -2.4900 0.0012 7.2195
50 -0.0010 2.4900 50 0.0009 -2.4900 4.8045
50 -0.0010 2.4900 50 0.0010 -2.4900 4.8045
50 -0.0010 2.4900 50 0.0011 -2.4900 4.7461
50 2.5 0 50 0 -2.5 4.3065
50 2.5 0 73 25 -18 27.1492
50 2.5 0 61 -5 29 22.8977
50 2.5 0 56 -27 -3 31.9030
50 2.5 0 58 24 15 19.4535
50 2.5 0 50 3.1736 0.5854 1.0000
50 2.5 0 50 3.2972 0 1.0000
50 2.5 0 50 1.8634 0.5757 1.0000
50 2.5 0 50 3.2592 0.3350 1.0000
60.2574 -34.0099 36.2677 60.4626 -34.1751 39.4387 1.2644
63.0109 -31.0961 -5.8663 62.8187 -29.7946 -4.0864 1.2630
61.2901 3.7196 -5.3901 61.4292 2.2480 -4.9620 1.8731
35.0831 -44.1164 3.7933 35.0232 -40.0716 1.5901 1.8645
22.7233 20.0904 -46.6940 23.0331 14.9730 -42.5619 2.0373
36.4612 47.8580 18.3852 36.2715 50.5065 21.2231 1.4146
90.8027 -2.0831 1.4410 91.1528 -1.6435 0.0447 1.4441
90.9257 -0.5406 -0.9208 88.6381 -0.8985 -0.7239 1.5381
6.7747 -0.2908 -2.4247 5.8714 -0.0985 -2.2286 0.6377
2.0776 0.0795 -1.1350 0.9033 -0.0636 -0.5514 0.9082`
  .trim()
  .split('\n')
  .map((line) => line.split(' ').map(Number));

describe('ciede2000', () => {
  it('gives the published 34 differences, in either direction', () => {
    expect(published).to.have.length(34);
    for (const [l1 = 0, a1 = 0, b1 = 0, l2 = 0, a2 = 0, b2 = 0, expected = 0] of published) {
      const [old, now]: [Lab, Lab] = [
        [l1, a1, b1],
        [l2, a2, b2],
      ];
      expect(ciede2000(old, now)).to.be.closeTo(expected, 0.00005);
      expect(ciede2000(now, old)).to.be.closeTo(expected, 0.00005);
    }
  });

  it('knows the Lab of sRGB colours', () => {
    // White is L* 100 without colour; red, green and blue as published for sRGB under D65 (from memory).
    const lab = new Float64Array(3);
    const of = (...rgb: [number, number, number]): number[] => {
      writeLab(...rgb, lab, 0);
      return [...lab].map((value) => Math.round(value * 10) / 10);
    };
    expect(of(255, 255, 255)).to.deep.equal([100, 0, 0]);
    expect(of(255, 0, 0)).to.deep.equal([53.2, 80.1, 67.2]);
    expect(of(0, 255, 0)).to.deep.equal([87.7, -86.2, 83.2]);
    expect(of(0, 0, 255)).to.deep.equal([32.3, 79.2, -107.9]);
  });
});

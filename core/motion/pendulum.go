package motion

import "math"

// Gravity is that of the standard, in metres a second squared.
const Gravity = 9.80665

// agm returns the arithmetic-geometric mean of a and b.
func agm(a, b float64) float64 {
	for math.Abs(a-b) > 4e-16*a {
		a, b = (a+b)/2, math.Sqrt(a*b)
	}
	return a
}

// ellipticK is the complete elliptic integral of the first kind of the modulus k (Abramowitz and Stegun,
// 17.6.3).
func ellipticK(k float64) float64 { return math.Pi / (2 * agm(1, math.Sqrt(1-k*k))) }

// jacobi returns sn and cn of the argument u and the modulus k by descending Landen transformations
// (Abramowitz and Stegun, 16.4).
func jacobi(u, k float64) (sn, cn float64) {
	if k < 1e-12 {
		return math.Sincos(u)
	}
	var a, c [32]float64
	a[0], c[0] = 1, k
	b, n := math.Sqrt(1-k*k), 0
	for n < len(a)-1 && math.Abs(c[n]) > 1e-16 {
		a[n+1], c[n+1], b = (a[n]+b)/2, (a[n]-b)/2, math.Sqrt(a[n]*b)
		n++
	}
	phi := math.Ldexp(a[n]*u, n)
	for ; n > 0; n-- {
		phi = (phi + math.Asin(c[n]/a[n]*math.Sin(phi))) / 2
	}
	return math.Sincos(phi)
}

// Pendulum returns the angle of a pendulum of an amplitude below half a turn, at a share of its period
// after it went through its lowest point: 2 asin(k sn(4 K x, k)) with k = sin(amplitude / 2).
func Pendulum(amplitude, x float64) float64 {
	k := math.Sin(math.Abs(amplitude) / 2)
	x -= math.Floor(x)
	sn, _ := jacobi(4*ellipticK(k)*x, k)
	return math.Copysign(2*math.Asin(k*sn), amplitude*sn)
}

// PendulumPeriod returns the seconds that a pendulum of a length in metres takes there and back.
func PendulumPeriod(length, amplitude float64) float64 {
	return 4 * math.Sqrt(length/Gravity) * ellipticK(math.Sin(math.Abs(amplitude)/2))
}

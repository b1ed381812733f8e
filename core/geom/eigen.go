package geom

import (
	"math"
	"sort"
)

// Eigen returns the eigenvalues of a symmetric 3 x 3 matrix, least first, and unit eigenvectors, by
// Jacobi's rotations (Golub and Van Loan, "Matrix Computations", 8.5, from memory).
func Eigen(a [3][3]float64) (values [3]float64, vectors [3]Vec3) {
	v := [3][3]float64{{1, 0, 0}, {0, 1, 0}, {0, 0, 1}} // columns
	for range 50 {
		p, q := 0, 1
		for _, pair := range [][2]int{{0, 2}, {1, 2}} {
			if math.Abs(a[pair[0]][pair[1]]) > math.Abs(a[p][q]) {
				p, q = pair[0], pair[1]
			}
		}
		if math.Abs(a[p][q]) < 1e-300 || math.Abs(a[p][q]) < 1e-16*(math.Abs(a[p][p])+math.Abs(a[q][q])) {
			break
		}
		theta := (a[q][q] - a[p][p]) / (2 * a[p][q])
		t := math.Copysign(1, theta) / (math.Abs(theta) + math.Hypot(theta, 1))
		c := 1 / math.Hypot(t, 1)
		s := t * c
		for k := range 3 {
			x, y := a[k][p], a[k][q]
			a[k][p], a[k][q] = c*x-s*y, s*x+c*y
		}
		for k := range 3 {
			x, y := a[p][k], a[q][k]
			a[p][k], a[q][k] = c*x-s*y, s*x+c*y
		}
		for k := range 3 {
			x, y := v[k][p], v[k][q]
			v[k][p], v[k][q] = c*x-s*y, s*x+c*y
		}
	}
	order := []int{0, 1, 2}
	sort.Slice(order, func(i, j int) bool { return a[order[i]][order[i]] < a[order[j]][order[j]] })
	for i, k := range order {
		values[i] = a[k][k]
		vectors[i] = Vec3{v[0][k], v[1][k], v[2][k]}
	}
	return values, vectors
}

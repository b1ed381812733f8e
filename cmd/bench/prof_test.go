package main

import "testing"

func BenchmarkStudio(b *testing.B) { for b.Loop() { studio() } }
func BenchmarkDependents(b *testing.B) { for b.Loop() { dependents() } }

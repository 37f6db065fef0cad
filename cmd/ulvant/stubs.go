package main

import "context"

func serve(context.Context, []string) error   { return nil }
func runDemo(context.Context, []string) error { return nil }
func migrate(context.Context, []string) error { return nil }
func design(context.Context, []string) error  { return nil }
func office(context.Context, []string) error  { return nil }

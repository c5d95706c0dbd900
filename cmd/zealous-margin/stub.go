package main

import "github.com/spf13/cobra"

func benchCommand() *cobra.Command { return &cobra.Command{Use: "bench"} }
func serveCommand() *cobra.Command { return &cobra.Command{Use: "serve"} }
func workCommand() *cobra.Command  { return &cobra.Command{Use: "work"} }
func demoCommand() *cobra.Command  { return &cobra.Command{Use: "demo"} }

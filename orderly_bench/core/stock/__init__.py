"""What a lab keeps and trials draw on: stock plants, benches, containers, recipes, method cards."""

"""The run: composes the steps, holds the two doors, and tells what happens as events."""

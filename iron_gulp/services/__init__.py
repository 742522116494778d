"""What the interfaces call: one function a task, on the model, the shelf and the storage."""

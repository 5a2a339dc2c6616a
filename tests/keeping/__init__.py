"""What the bench file keeps."""

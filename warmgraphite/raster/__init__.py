"""What share of each pixel an area takes, exactly."""

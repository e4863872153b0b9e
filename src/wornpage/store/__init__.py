"""What is kept between pressings: values and traces, addressed by content, checked on the way out."""

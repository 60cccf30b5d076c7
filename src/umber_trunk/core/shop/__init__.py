"""What a shop knows once for all its harnesses: tools, people, prices, rates, devices, jobs; what a job costs."""

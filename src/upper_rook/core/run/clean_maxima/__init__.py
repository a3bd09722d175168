"""The clean maxima of sources: which ones a job asks for, and how far each is found."""

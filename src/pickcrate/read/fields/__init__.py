"""Fields of HTTP answers, as servers, logs and archives have them."""

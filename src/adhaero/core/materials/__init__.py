"""What joints are made of: woods and glue families, each value with its source."""

"""The API over the network: the same rules, sentences and limits as pages and files. Begin with `routes`."""

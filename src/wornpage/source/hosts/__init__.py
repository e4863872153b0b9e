"""Host texts: pages in a language that is not Markdown, whose prose stays as it is. One file a language says where chunks and marks stand."""

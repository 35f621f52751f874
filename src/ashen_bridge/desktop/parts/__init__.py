"""Parts that every page is made of: fields, forms, sheets, dialogs, notices, lists."""

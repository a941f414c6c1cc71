from django.apps import AppConfig


class StockConfig(AppConfig):
    name = "studio.stock"
    label = "stock"
